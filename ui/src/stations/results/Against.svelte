<script lang="ts">
  // Which internal standard each target is read against: the dot is the choice, the number how much replicates scatter with it.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Method } from "../../api/client";
  import { missing, significant } from "../../look/number";
  import { ask } from "../../state/ask";
  import { draft } from "./draft.svelte";
  import { above0 } from "../../state/held";

  let { batch, method }: { batch: Batch; method: Method } = $props();
  const query = createQuery(() => ask.against(batch.id, batch.revision));
  const names = $derived(new Map(method.compounds.map((c) => [c.id, c])));
  const standards = $derived(
    method.compounds.filter((c) => c.role === "internal_standard").toSorted((a, b) => a.expected_min - b.expected_min),
  );
  function choose(target: string, standard: string) {
    draft.change(
      batch,
      { compounds: method.compounds.map((c) => (c.id === target ? { ...c, against: standard } : c)) },
      `${names.get(target)?.name}: read against ${standard === "none" ? "none" : names.get(standard)?.name}`,
    );
  }
  /** What holds in the draft: the one that is named, else what the method now does. */
  const chosen = (target: string, now: string) => names.get(target)?.against || now;
  const number = (text: string) => Number(text.replace(",", "."));
</script>

<section aria-label="Read against">
  <div class="cap">
    <h2>Read against</h2>
    <span class="note">scatter of replicates, %</span>
  </div>
  {#if query.isError}<p class="att">{query.error.message}</p>
  {:else}
    <table>
      <thead
        ><tr
          ><th class="l">Target</th>{#each standards as s (s.id)}<th class="is">{s.name}</th>{/each}<th>none</th></tr
        ></thead
      >
      <tbody>
        {#each query.data ?? [] as row (row.compound_id)}
          <tr>
            <td class="l">{names.get(row.compound_id)?.name}</td>
            {#each row.ways as w (w.standard_id)}
              {@const on = chosen(row.compound_id, row.chosen) === w.standard_id}
              <td
                ><button
                  class:on
                  role="radio"
                  aria-checked={on}
                  aria-label="{names.get(row.compound_id)?.name} against {names.get(w.standard_id)?.name ?? 'none'}"
                  title={on && !names.get(row.compound_id)?.against ? "the nearest in retention" : ""}
                  onclick={() => choose(row.compound_id, w.standard_id)}
                  ><i aria-hidden="true"></i>{w.rsd_percent === null ? missing : significant(w.rsd_percent, 2)}</button
                ></td
              >
            {/each}
          </tr>
        {/each}
        <tr class="each">
          <td class="l mut">in each injection</td>
          {#each standards as s (s.id)}
            <td
              ><input
                class="field"
                aria-label="{s.name} in each injection, {method.curves.unit}"
                value={s.amount}
                onchange={(e) =>
                  above0(e.currentTarget.value) &&
                  draft.change(
                    batch,
                    { compounds: method.compounds.map((c) => (c.id === s.id ? { ...c, amount: number(e.currentTarget.value) } : c)) },
                    `${s.name}: ${e.currentTarget.value} ${method.curves.unit} in each injection`,
                  )}
              />
              {method.curves.unit}</td
            >
          {/each}
          <td></td>
        </tr>
      </tbody>
    </table>
    <p class="note">Of standards, checks and samples that were injected more than once. The run list overrides an injection's amount.</p>
  {/if}
</section>

<style>
  section {
    max-width: 430px;
  }
  .note {
    max-width: 300px;
  }
  table {
    width: auto;
  }
  .cap {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 20px;
  }
  .is {
    color: var(--moss-text, var(--moss));
  }
  button {
    display: inline-flex;
    align-items: center;
    gap: 6px;
    color: var(--ink-3);
  }
  button.on {
    color: var(--ink);
    font-weight: 600;
  }
  i {
    width: 9px;
    height: 9px;
    border: 1px solid var(--mist-3);
    border-radius: 50%;
  }
  .on i {
    background: var(--moss);
    border-color: var(--moss);
  }
  .each .field {
    width: 44px;
    text-align: right;
    height: 19px;
    font-size: 12.5px;
  }
</style>
