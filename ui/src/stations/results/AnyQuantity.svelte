<script lang="ts">
  // Any quantity of the register over all injections and compounds, with how it is got; taken away as a table.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../api/client";
  import { missing } from "../../look/number";
  import Columns from "../../parts/Columns.svelte";
  import { ask } from "../../state/ask";
  import { replicate } from "../../state/desk.svelte";
  import { place } from "../../state/place.svelte";

  let { batch, index }: { batch: Batch; index: number } = $props();
  let chosen = $state("area_s");
  const register = createQuery(() => ask.quantities(batch.id, batch.revision));
  const groups = $derived(
    (
      [
        ["of each compound", ["compound", "peak", "sample"]],
        ["of each injection", ["injection", "trace"]],
      ] as const
    ).map(([word, lives]) => [word, (register.data ?? []).filter((q) => (lives as readonly string[]).includes(q.lives))] as const),
  );
  const query = createQuery(() => ask.matrix(batch.id, batch.revision, chosen));
  const m = $derived(query.data && query.data.rows.length === batch.injections.length ? query.data : undefined);
  const names = $derived(new Map(batch.version.method.compounds.map((c) => [c.id, c.name])));
  const byCompound = $derived(!!m && m.compounds[0] !== "");
  const words = $derived(m?.quantity.kind === "text" || m?.quantity.kind === "moment");

  const decimals = (text: string) => (/^[−-]?[\d\s]+\.(\d+)$/.exec(text)?.[1] ?? "").length;
  /** The most decimals in each column: numbers stand on their point, each with the digits that it has. */
  const most = $derived((m?.compounds ?? []).map((_, k) => Math.max(0, ...m!.rows.map((r) => decimals(r.cells[k]?.shown ?? "")))));
  function end(shown: string, column: number): string {
    const lack = (most[column] ?? 0) - decimals(shown);
    return lack <= 0 ? "" : (decimals(shown) === 0 ? "." : "") + "0".repeat(lack);
  }
</script>

<div class="roll" role="region" aria-label="Any quantity">
  <p class="pick">
    <select class="field" aria-label="Quantity" title="What is shown of each injection" bind:value={chosen}>
      {#each groups as [word, list] (word)}
        <optgroup label={word}>
          {#each list as q (q.id)}<option value={q.id}>{q.words}{q.unit ? `, ${q.unit}` : ""}</option>{/each}
        </optgroup>
      {/each}
    </select>
    <span class="note">{m?.quantity.how ?? ""}</span>
    <a
      class="lnk"
      href="/api/batches/{batch.id}/table.csv?columns=injection,name,replicate,role,{byCompound ? 'compound,' : ''}{chosen}"
      download
      title="The same with every digit, as delimited text">as CSV</a
    >
  </p>
  {#if query.isError}<div class="empty">{query.error.message}</div>
  {:else if !m}<div class="empty">Reading …</div>
  {:else}
    <Columns stay={1} class="flush">
      <table>
        <thead
          ><tr
            ><th class="l">Injection</th>{#each m.compounds as c (c)}<th class:l={words}
                >{names.get(c) ?? m.quantity.words}{!byCompound && m.quantity.unit ? `, ${m.quantity.unit}` : ""}</th
              >{/each}</tr
          ></thead
        >
        <tbody>
          {#each m.rows as r, i (r.injection_id)}
            <tr class:sel={i === index} onclick={() => place.go({ query: { i: r.injection_id } }, false)}>
              <td class="l">{batch.injections[i]!.name} <span class="mut">{replicate(batch, i)}</span></td>
              {#each r.cells as c, k (k)}<td class:l={words} class:mut={!c.shown}
                  >{c.shown || missing}<i class="end" aria-hidden="true">{words ? "" : end(c.shown, k)}</i></td
                >{/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </Columns>
  {/if}
</div>

<style>
  .pick {
    display: flex;
    gap: 14px;
    align-items: baseline;
    padding: 0 0 8px;
  }
  tbody tr {
    cursor: pointer;
  }
  .end {
    visibility: hidden;
  }
</style>
