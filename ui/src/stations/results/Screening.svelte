<script lang="ts">
  // Targets against samples: is it in there, and by which evidence? Only a person makes a compound present, or not.
  import { untrack } from "svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Screened } from "../../api/client";
  import Columns from "../../parts/Columns.svelte";
  import { fixed } from "../../look/number";
  import { ask } from "../../state/ask";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import EvidenceMark from "./EvidenceMark.svelte";
  import { screening, waits, words } from "./screening.svelte";

  let { batch, index }: { batch: Batch; index: number } = $props();
  const query = createQuery(() => ask.screening(batch.id, batch.revision));
  const s = $derived(query.data);
  const rows = $derived(s ? screening.rows(s) : []);
  const at = $derived(screening.at(s));
  const row = $derived(rows.findIndex((r) => r.name === at?.sample));
  const column = $derived(s?.compounds.findIndex((c) => c.id === at?.compound) ?? 0);
  const numbers = (ids: string[]) => ids.map((id) => batch.injections.findIndex((i) => i.id === id) + 1).join(", ");
  const differs = (r: Screened["samples"][number]) => r.cells.some((c) => c.others > 0);
  const confirmed = $derived(s?.samples.flatMap((r) => r.cells).filter((c) => c.word === "present").length ?? 0);
  const waiting = $derived(s?.samples.flatMap((r) => r.cells).filter(waits).length ?? 0);
  let grid = $state<HTMLElement>();

  /** Another injection in the scroll is another row; the first look goes to what waits. */
  let last = "";
  $effect(() => {
    const now = batch.injections[index]?.id ?? "";
    if (!s || now === last) return;
    const first = last === "";
    last = now;
    const chosen = untrack(() => screening.at(s));
    if (first && chosen && !place.query.c) {
      untrack(() => screening.choose(s, chosen.sample, chosen.compound));
      return;
    }
    if (!first && chosen?.cell.evidence.some((e) => e.injection_id === now)) return;
    const of = s.samples.find((r) => r.injection_ids.includes(now));
    const asked = first ? s.compounds.find((c) => c.id === place.query.c)?.id : undefined;
    const compound = asked ?? chosen?.compound ?? s.compounds[0]?.id ?? "";
    if (of) untrack(() => screening.go(of.name, compound, now));
  });
  function go(r: number, c: number) {
    const to = rows[Math.max(0, Math.min(rows.length - 1, r))];
    const compound = s?.compounds[Math.max(0, Math.min(s.compounds.length - 1, c))];
    if (!to || !compound) return;
    screening.choose(s!, to.name, compound.id);
    grid
      ?.querySelector(`[data-at="${rows.indexOf(to)}-${s!.compounds.indexOf(compound)}"]`)
      ?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }
  function key(e: KeyboardEvent) {
    if (e.key === "Enter" && s && !e.ctrlKey && !e.altKey) {
      e.preventDefault();
      void (e.shiftKey ? screening.all(batch, s) : screening.say(s, "present"));
      return;
    }
    const move = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key];
    if (!move || e.ctrlKey || e.altKey || e.shiftKey) return;
    e.preventDefault();
    e.stopPropagation();
    go(row + move[0]!, column + move[1]!);
  }
  $effect(() =>
    keys({
      Enter: () => s && void screening.say(s, "present"),
      x: () => s && void screening.say(s, "not_present"),
      q: () => s && void screening.say(s, "again"),
      "]": () => s && screening.next(s),
      "[": () => s && screening.next(s, -1),
      "shift+Enter": () => s && void screening.all(batch, s),
    }),
  );
</script>

{#if query.isError}<div class="empty" role="alert">{query.error.message}</div>
{:else if !s}<div class="empty">Reading the evidence …</div>
{:else if s.samples.length === 0}<div class="empty">
    There is no sample to screen. Give injections the role sample at the Batch station.
  </div>
{:else if rows.length === 0}<div class="empty">Nothing that is looked for was found in any sample.</div>
{:else}
  <Columns stay={1} at={column + 1} class="matrix">
    <table bind:this={grid} role="grid" tabindex="0" aria-label="Screening" data-own-keys onkeydown={key}>
      <thead
        ><tr
          ><th class="l">Sample</th>{#each s.compounds as c, k (c.id)}<th class:on={k === column}
              >{c.name}<span class="under">{fixed(c.expected_min, 2)} min</span></th
            >{/each}</tr
        ></thead
      >
      <tbody>
        {#each rows as r, i (r.name)}
          <tr class:on={i === row}>
            <td class="l who"
              ><span class="name">{r.name}</span><span class="under mut"
                >{numbers(r.injection_ids)}{#if differs(r)}<span class="att"> · they differ</span>{/if}</span
              ></td
            >
            {#each r.cells as c, k (s.compounds[k]!.id)}
              {@const shown = c.evidence[c.shown]}
              <td
                role="gridcell"
                data-at="{i}-{k}"
                class:at={i === row && k === column}
                aria-selected={i === row && k === column}
                onclick={() => go(i, k)}
              >
                <span class="word {c.word}" class:stale={c.stale}
                  >{#if c.word === "present"}✓{:else if c.word === "look_here"}△{:else if c.word === "again"}↻{/if}
                  {c.word ? words[c.word] : ""}</span
                >
                {#if shown?.found}<span class="marks"
                    >{#each shown.marks.filter((m) => m.kind !== "signal_to_noise" || !m.inside) as m, n (n)}<EvidenceMark
                        mark={m}
                      />{/each}</span
                  >{/if}
                {#if c.stale && c.decision}<span class="under mut"
                    >was {c.decision.word === "present" ? "present" : "not"}, version {c.decision.version}</span
                  >{/if}
              </td>
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
  </Columns>
  <p class="legend">
    <span>line: permitted</span><span>dot: found</span><span class="att">hollow: outside</span><span
      >retention, spectrum, ratios from the left; a missing mark was not asked for or cannot be had</span
    >
    <span class="tally"><b>{confirmed}</b> confirmed, <b class:att={waiting > 0}>{waiting}</b> wait</span>
  </p>
{/if}

<style>
  :global(.matrix) {
    flex: 0 1 auto;
    outline-offset: -2px;
  }
  th {
    color: var(--ink);
    font-weight: 500;
    text-align: center;
    white-space: normal;
  }
  th.l {
    text-align: left;
    vertical-align: bottom;
  }
  td {
    height: 39px;
    padding: 2px 6px;
    line-height: 16px;
    cursor: pointer;
    vertical-align: middle;
    text-align: center;
    min-width: 92px;
  }
  td.who {
    text-align: left;
    white-space: normal;
    min-width: 150px;
  }
  .who .name {
    display: block;
    overflow-wrap: anywhere;
    font: 500 15px/19px var(--f-read);
  }
  .under {
    display: block;
    font-size: 12px;
    line-height: 15px;
    font-weight: 400;
    color: var(--ink-2);
  }
  .word {
    display: block;
    font-weight: 500;
    white-space: nowrap;
  }
  .word.nothing {
    font-weight: 400;
    color: var(--ink-3);
  }
  .word.below_limit {
    color: var(--ink-3);
  }
  .word.look_here,
  .word.again {
    color: var(--kaki-text);
  }
  .word.present::first-letter {
    color: var(--moss);
  }
  .word.not_present {
    color: var(--ink-3);
    text-decoration: line-through;
  }
  .word.stale {
    color: var(--ink-3);
  }
  .marks {
    display: inline-flex;
    gap: 1px;
    height: 12px;
  }
  td.at {
    outline: 2px solid var(--kaki);
    outline-offset: -2px;
    background: var(--row-kaki);
  }
  .legend {
    display: flex;
    gap: 18px;
    padding: 8px 16px 6px;
    font-size: 12.5px;
    flex: none;
    color: var(--ink-2);
  }
  .tally {
    margin-left: auto;
    white-space: nowrap;
  }
</style>
