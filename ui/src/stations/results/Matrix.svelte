<script lang="ts">
  // Samples against compounds: the amounts, what they are worth, and the checks of the chosen compound beneath.
  import type { Batch, Compound, Reading, Result, SampleValue } from "../../api/client";
  import Columns from "../../parts/Columns.svelte";
  import Choice from "../../parts/Choice.svelte";
  import Mark, { flagWords, markOf } from "../../parts/Mark.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { cell, tone } from "./cells";
  import Checks from "./Checks.svelte";
  import { looking, type Row } from "./matrix.svelte";

  let {
    batch,
    result,
    columns,
    compounds,
    rows,
    col,
    current,
    height,
  }: {
    batch: Batch;
    result: Result;
    columns: { id: string; name: string }[];
    compounds: Compound[];
    rows: Row[];
    /** The chosen column. */ col: number;
    /** The chosen injection. */ current: string;
    /** Of the station, px. */ height: number;
  } = $props();
  const method = $derived(batch.version.method);
  const compound = $derived(compounds[col]);
  let allBatches = $state(false);
  /** Where there is little height the chart of checks is one line until it is opened. */
  const enough = 470; // px for the matrix and the chart
  let opened = $state(false);
  const folded = $derived(height < enough && !opened);
  const verdict = $derived.by(() => {
    const own = (result?.checks ?? []).filter((c) => c.compound_id === compound?.id);
    const out = own.filter((c) => c.outside);
    const name = (id: string) => batch.injections.find((i) => i.id === id)?.name ?? "";
    const limits = `${method.checks.recovery_low_percent} – ${method.checks.recovery_high_percent} %`;
    if (out.length === 0) return `${compound?.name}: all ${own.length} inside ${limits}`;
    const told = out.map((c) => `${name(c.injection_id)} ${c.recovery_percent.toFixed(1)} %`).join(", ");
    return `${compound?.name}: ${told}, limits ${limits}${own.length > out.length ? `; the other ${own.length - out.length} are inside` : ""}`;
  });
  let grid = $state<HTMLElement>();
  /** The row that holds the chosen injection: itself, or the sample it is a replicate of. */
  const at = $derived.by(() => {
    const own = rows.findIndex((r) => r.id === current);
    if (own >= 0 || looking.mode !== "mean") return own;
    const sample = result?.samples.find((s) => s.injection_ids.includes(current));
    return sample ? rows.findIndex((r) => r.id === sample.injection_ids[0]) : -1;
  });
  const shown = (c: SampleValue | Reading, compoundId: string) =>
    cell(c, {
      concentration: looking.mode === "concentration",
      intervals: looking.intervals,
      unit: method.curves.unit,
      loq: result?.curves.find((k) => k.compound_id === compoundId)?.loq ?? null,
      group: compoundId.startsWith("group:"),
    });

  function go(r: number, c: number) {
    const row = rows[Math.max(0, Math.min(rows.length - 1, r))];
    const k = columns[Math.max(0, Math.min(columns.length - 1, c))];
    if (!row || !k) return;
    place.go({ query: { i: row.id, c: k.id } }, false);
    grid?.querySelector(`[data-at="${rows.indexOf(row)}-${columns.indexOf(k)}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }
  function key(e: KeyboardEvent) {
    const move = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key];
    if (!move || e.ctrlKey || e.altKey) return;
    e.preventDefault();
    e.stopPropagation();
    go(at + move[0]!, col + move[1]!);
  }
  $effect(() => keys({ "/": () => document.querySelector<HTMLInputElement>(".seek")?.focus() }));
  const flagsShown = $derived([...new Set(rows.flatMap((r) => r.cells.flatMap((c) => c.flags)))].filter((f) => f !== "no_sample_amount"));
</script>

<Columns stay={1} at={col + 1} class="matrix">
  <table bind:this={grid} role="grid" tabindex="0" aria-label="Results" data-own-keys onkeydown={key}>
    <thead
      ><tr
        ><th class="l" aria-sort={looking.sorted?.id === "" ? (looking.sorted.down ? "ascending" : "descending") : "none"}
          ><button onclick={() => looking.sortBy("")} title="Sorts by name; again turns it round, once more is run order"
            >Sample{looking.sorted?.id === "" ? (looking.sorted.down ? " ↓" : " ↑") : ""}</button
          ></th
        >{#each looking.mode === "mean" ? columns : columns.slice(0, compounds.length) as c, k (c.id)}<th
            class:on={k === col}
            class:group={k >= compounds.length}
            aria-sort={looking.sorted?.id === c.id ? (looking.sorted.down ? "descending" : "ascending") : "none"}
            ><button onclick={() => looking.sortBy(c.id)} title={`Sorts by ${c.name}; again turns it round, once more is run order`}
              >{c.name}{looking.sorted?.id === c.id ? (looking.sorted.down ? " ↓" : " ↑") : ""}</button
            ></th
          >{/each}</tr
      ></thead
    >
    <tbody>
      {#each rows as r, i (r.id)}
        <tr class:on={i === at}>
          <td class="l who"
            ><span class="name">{r.name}</span><span class="under mut"
              >{r.note}{#if r.missing}, <span class="att">{r.missing}</span>{/if}</span
            ></td
          >
          {#each r.cells as c, k (columns[k]!.id)}
            {@const s = shown(c, columns[k]!.id)}
            <td
              role="gridcell"
              data-at="{i}-{k}"
              class:at={i === at && k === col}
              aria-selected={i === at && k === col}
              onclick={() => go(i, k)}
            >
              <span class="v {s.flag && tone(s.flag) === 'att' ? 'att' : ''}">
                {#if s.flag && s.flag !== "no_sample_amount"}<span class={tone(s.flag)}><Mark name={markOf(s.flag)} /></span>{/if}
                {s.value}
              </span>
              <span class="under {tone(s.flag)}">{s.under}</span>
            </td>
          {/each}
        </tr>
      {:else}<tr><td class="l mut" colspan={columns.length + 1}>No row fits the filter.</td></tr>{/each}
    </tbody>
  </table>
</Columns>
<p class="legend">
  {#each flagsShown as f (f)}<span class={tone(f)}><Mark name={markOf(f)} /> {flagWords[f]}</span>{/each}
</p>
{#if compound && result.checks.length > 0}
  {#if folded}
    <p class="sub line">
      <span class="verdict" title={verdict}>Checks: {verdict}</span>
      <button class="lnk" title="Opens the chart of checks" onclick={() => (opened = true)}>open the chart</button>
    </p>
  {:else}
    <div class="sub">
      <h2>Checks</h2>
      <span class="note">{compound.name}, recovery {allBatches ? "over all batches of the study" : "in run order"}</span>
      <span class="right"
        ><Choice
          label="Checks of"
          options={[
            ["this", "this batch"],
            ["all", "all batches"],
          ]}
          value={allBatches ? "all" : "this"}
          choose={(v) => (allBatches = v === "all")}
        /></span
      >
    </div>
    <Checks {batch} {result} {compound} all={allBatches} />
    {#if opened && height < enough}<p class="sub line">
        <button class="lnk" title="Folds the chart to one line" onclick={() => (opened = false)}>fold the chart</button>
      </p>{/if}
  {/if}
{/if}

<style>
  :global(.matrix) {
    flex: 0 1 auto;
    outline-offset: -2px;
  }
  th {
    color: var(--ink);
    font-weight: 500;
  }
  td {
    height: 39px;
    padding: 2px 10px;
    line-height: 17px;
    cursor: pointer;
    vertical-align: middle;
  }
  /* A long name takes more lines, never the room of the values. */
  td.who {
    white-space: normal;
    min-width: 170px;
  }
  .who .name {
    display: block;
    overflow-wrap: anywhere;
    font: 500 15px/19px var(--f-read);
  }
  .under {
    display: block;
    font-size: 12px;
    line-height: 16px;
  }
  .v {
    font-size: 14px;
    font-weight: 500;
    display: inline-flex;
    gap: 5px;
    align-items: baseline;
  }
  td.at {
    outline: 2px solid var(--kaki);
    outline-offset: -2px;
    background: var(--row-kaki);
  }
  .seek {
    width: 90px;
    font-size: 12.5px;
  }
  th.group {
    border-left: 1px solid var(--mist-2);
  }
  .sub .right {
    margin-left: auto;
  }
  .legend {
    display: flex;
    gap: 18px;
    padding: 8px 16px 6px;
    font-size: 12.5px;
    flex: none;
  }
  .sub.line {
    padding-bottom: 4px;
    font-size: 12.5px;
  }
  .verdict {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .sub.line .lnk {
    min-height: 24px;
    white-space: nowrap;
  }
  .sub {
    display: flex;
    gap: 10px;
    align-items: baseline;
    margin: 0 12px 0 16px;
    padding-top: 8px;
    border-top: 1px solid var(--mist-1);
    flex: none;
  }
</style>
