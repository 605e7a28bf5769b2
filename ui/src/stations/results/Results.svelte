<script lang="ts">
  import Fields from "./Fields.svelte";
  import Trends from "./Trends.svelte";
  import TrendsSide from "./TrendsSide.svelte";
  import FieldsSide from "./FieldsSide.svelte";
  import type { Method, Reading, SampleValue } from "../../api/client";
  import Columns from "../../parts/Columns.svelte";
  import Choice from "../../parts/Choice.svelte";
  import { createQuery, keepPreviousData } from "@tanstack/svelte-query";
  import { ask } from "../../state/ask";
  import AnyQuantity from "./AnyQuantity.svelte";
  import { shown as shownMeasures } from "./summary.svelte";
  import SummarySide from "./SummarySide.svelte";
  import SummaryTables from "./SummaryTables.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Mark, { flagWords, markOf } from "../../parts/Mark.svelte";
  import Notices from "../../parts/Notices.svelte";
  import { desk, replicate } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import type { StationProps } from "../props";
  import { reason } from "../../state/reason.svelte";
  import Amounts from "./Amounts.svelte";
  import { cell, tone } from "./cells";
  import Changed from "./Changed.svelte";
  import Checks from "./Checks.svelte";
  import Outcomes from "./Outcomes.svelte";
  import { draft } from "./draft.svelte";
  import Previewing from "./Previewing.svelte";
  import WorkingView from "./WorkingView.svelte";

  let { batch, result, index, stale }: StationProps = $props();
  const method = $derived(batch.version.method);
  const compounds = $derived((result?.curves ?? []).map((c) => method.compounds.find((m) => m.id === c.compound_id)!).filter(Boolean));
  const groups = $derived([...new Set(compounds.map((c) => c.group ?? "").filter(Boolean))]);
  /** The columns: every target, then every group; a group's id begins as the server knows it. */
  const columns = $derived([...compounds.map((c) => ({ id: c.id, name: c.name })), ...groups.map((g) => ({ id: `group:${g}`, name: g }))]);
  const faces = ["matrix", "summary", "any", "trends", "fields", "checks", "changed", "amounts"] as const;
  type Tab = (typeof faces)[number];
  const view = $derived<Tab>(faces.find((f) => f === place.query.face) ?? "matrix");
  let mode = $state<"mean" | "each" | "concentration">("mean");
  let sought = $state("");
  let flagged = $state(false);
  let sorted = $state<{ id: string; down: boolean } | null>(null);
  let intervals = $state(false);
  let allBatches = $state(false);
  /** Where there is little height the chart of checks is one line until it is opened. */
  const enough = 470; // px for the matrix and the chart
  let height = $state(1000);
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
  const weighed = $derived(!method.amounts.percent_of_total && !method.amounts.as_measured);
  const reported = $derived(
    method.amounts.percent_of_total ? "% of total" : method.amounts.as_measured ? method.curves.unit : method.amounts.unit,
  );
  const tried = $derived(view === "amounts" ? draft.method(batch) : null);
  async function saveChecks(checks: Method["checks"], what: string) {
    const why = await reason.ask(`Limits: ${what}`);
    if (why) await desk.saveMethod({ ...method, checks }, why);
  }
  const summaryQuery = createQuery(() => ({
    ...ask.summary(batch.id, batch.revision, shownMeasures.asked(batch)),
    enabled: view === "summary" && shownMeasures.measures.length > 0,
    placeholderData: keepPreviousData,
  }));
  const summary = $derived(summaryQuery.data);
  let copied = $state(false);
  /** The tables as they stand, tabs between their cells. */
  async function takeSummary() {
    const text = [...document.querySelectorAll("[aria-label='Summary tables'] > .sub, [aria-label='Summary tables'] table")]
      .map((e) =>
        e.matches("table")
          ? [...e.querySelectorAll("tr")]
              .map((r) => [...r.children].map((c) => (c as HTMLElement).innerText.replace(/\s+/g, " ").trim()).join("\t"))
              .join("\n")
          : (e as HTMLElement).innerText.replace(/\s+/g, " ").trim(),
      )
      .join("\n");
    await navigator.clipboard.writeText(text);
    copied = true;
    setTimeout(() => (copied = false), 2000);
  }
  let grid = $state<HTMLElement>();

  type Row = {
    id: string;
    name: string;
    note: string;
    missing: string;
    sample: boolean;
    cells: (SampleValue | Reading)[];
  };
  const amountOf = (c: SampleValue | Reading | undefined): number =>
    (c && ("mean" in c ? (c.mean ?? c.concentration.mean) : mode === "concentration" ? c.concentration : c.amount)) ?? -Infinity;
  const rows = $derived.by<Row[]>(() => {
    let list = all.filter(
      (r) =>
        r.name.toLowerCase().includes(sought.trim().toLowerCase()) &&
        (!flagged || r.missing || r.cells.some((c) => c.flags.some((f) => f !== "below_loq"))),
    );
    if (sorted) {
      const k = columns.findIndex((c) => c.id === sorted!.id);
      const by =
        sorted.id === ""
          ? (a: Row, b: Row) => a.name.localeCompare(b.name)
          : (a: Row, b: Row) => amountOf(b.cells[k]) - amountOf(a.cells[k]);
      list = list.toSorted((a, b) => (sorted!.down ? by(a, b) : by(b, a)));
    }
    return list;
  });
  /** First by what is greatest, then the other way round, then in run order again. */
  function sortBy(id: string) {
    sorted = sorted?.id !== id ? { id, down: true } : sorted.down ? { id, down: false } : null;
  }
  const all = $derived.by<Row[]>(() => {
    if (!result) return [];
    const weights = (ids: string[]) =>
      ids
        .map((id) => batch.injections.find((i) => i.id === id)!.sample)
        .map((v) => (v === null ? "" : v.toFixed(4)))
        .filter(Boolean)
        .join(", ");
    if (mode === "mean")
      return result.samples.map((s) => {
        const bare = s.injection_ids.filter((id) => batch.injections.find((i) => i.id === id)!.sample === null).length;
        return {
          id: s.injection_ids[0]!,
          name: s.name,
          note: `${s.injection_ids.map((id) => batch.injections.findIndex((i) => i.id === id) + 1).join(", ")}${weights(s.injection_ids) ? ` · ${weights(s.injection_ids)} ${method.amounts.sample_unit}` : ""}`,
          missing: bare && weighed ? "no weight" : "",
          sample: true,
          cells: [...compounds.map((c) => s.values[c.id]!), ...groups.map((g) => s.groups![g]!)],
        };
      });
    return result.injections.flatMap((r, i) => {
      const inj = batch.injections[i]!;
      if (mode === "each" && inj.role !== "sample") return [];
      if (inj.role === "blank" || inj.role === "") return [];
      return [
        {
          id: r.id,
          name: inj.name,
          note: `injection ${i + 1}${replicate(batch, i) ? ` · ${replicate(batch, i)}` : ""}`,
          missing: weighed && inj.role === "sample" && inj.sample === null ? "no weight" : "",
          sample: inj.role === "sample",
          cells: compounds.map((c) => r.readings[c.id]!), // sums are of means only
        },
      ];
    });
  });

  const current = $derived(batch.injections[index]?.id ?? "");
  /** The row that holds the chosen injection: itself, or the sample it is a replicate of. */
  const at = $derived.by(() => {
    const own = rows.findIndex((r) => r.id === current);
    if (own >= 0 || mode !== "mean") return own;
    const sample = result?.samples.find((s) => s.injection_ids.includes(current));
    return sample ? rows.findIndex((r) => r.id === sample.injection_ids[0]) : -1;
  });
  const col = $derived(
    Math.max(
      0,
      columns.findIndex((c) => c.id === place.query.c),
    ),
  );
  const column = $derived(columns[col]);
  const compound = $derived(compounds[col]);

  const shown = (c: SampleValue | Reading, compoundId: string) =>
    cell(c, {
      concentration: mode === "concentration",
      intervals,
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
  $effect(() =>
    keys({
      "/": () => document.querySelector<HTMLInputElement>(".seek")?.focus(),
      p: () => place.go({ station: "peaks", query: { i: current, c: compound?.id } }),
      c: () => place.go({ station: "curves", query: { c: compound?.id } }),
    }),
  );
  const flagsShown = $derived([...new Set(rows.flatMap((r) => r.cells.flatMap((c) => c.flags)))].filter((f) => f !== "no_sample_amount"));
  // A row of means stands for its sample; a check or a standard, which has no row here, still shows its working.
  const working = $derived(column ? current : "");
</script>

<div class="stage">
  <main class="main" bind:clientHeight={height}>
    <div class="head">
      <h1>Results</h1>
      <span class="note"
        >{#if view === "trends"}since when, and what happened then{:else if view === "fields"}the laboratory's own quantities · kept with
          the method{:else if view === "summary"}{summary
            ? `${summary.injections.length} injections${shownMeasures.by === "none" ? "" : ` by ${batch.own_columns.find((c) => `own:${c.id}` === shownMeasures.by)?.name ?? shownMeasures.by}`}`
            : ""}{stale ? " · processing …" : ""}{:else if view === "amounts"}for {batch.injections.length === 1
            ? "the one injection"
            : `all ${batch.injections.length} injections`}{stale ? " · processing …" : ""}{:else}{mode === "concentration"
            ? method.curves.unit
            : reported} · {mode === "mean"
            ? "mean of replicates, relative SD below"
            : "standard uncertainty of the calibration below"}{stale ? " · processing …" : ""}{/if}</span
      >
      <span class="tools">
        {#if view === "matrix"}
          <input
            class="field seek"
            aria-label="Filter by name"
            title="Shows the rows whose name holds this"
            placeholder="filter"
            bind:value={sought}
          />
          <label class="chk" title="Shows only rows with something to look at"
            ><input type="checkbox" bind:checked={flagged} />flagged</label
          >
          <label class="chk" title="Shows 95 % intervals in place of standard deviations"
            ><input type="checkbox" bind:checked={intervals} />95 %</label
          >
          <Choice
            label="What is shown"
            options={[
              ["mean", "mean"],
              ["each", "each replicate"],
              ["concentration", method.curves.unit],
            ]}
            value={mode}
            choose={(m) => (mode = m)}
          />
        {/if}
        <Choice
          label="View"
          options={[
            ["matrix", "matrix"],
            ["summary", "summary"],
            ["any", "any quantity"],
            ["trends", "trends"],
            ["fields", "fields"],
            ["checks", "checks"],
            ["changed", "changed"],
            ["amounts", "amounts"],
          ]}
          value={view}
          choose={(face) => place.go({ query: { face } })}
        />
      </span>
    </div>
    {#if !result}
      <div class="empty">Processing the batch …</div>
    {:else if view === "trends"}
      <Trends {batch} {compound} />
    {:else if view === "fields"}
      <Fields {batch} {index} compound={compound?.id ?? ""} />
    {:else if compounds.length === 0}
      <div class="empty">Nothing to report yet: name peaks at the Compounds station.</div>
    {:else if view === "summary"}
      {#if summaryQuery.isError}<div class="empty">{summaryQuery.error.message}</div>
      {:else if shownMeasures.measures.length === 0}<div class="empty">Choose a measure at the side.</div>
      {:else if summary}<SummaryTables {batch} s={summary} take={takeSummary} />
      {:else}<div class="empty">Reading …</div>{/if}
    {:else if view === "any"}
      <AnyQuantity {batch} {index} />
    {:else if view === "checks"}
      <Outcomes {batch} {result} save={saveChecks} />
    {:else if view === "amounts"}
      <Amounts {batch} {result} injection={current} compound={compound?.id ?? ""} />
    {:else if view === "changed"}
      <Changed {batch} />
    {:else if all.length === 0}
      <div class="empty">There is no sample in this batch. Give injections the role sample at the Batch station.</div>
    {:else}
      <Columns stay={1} at={col + 1} class="matrix">
        <table bind:this={grid} role="grid" tabindex="0" aria-label="Results" data-own-keys onkeydown={key}>
          <thead
            ><tr
              ><th class="l" aria-sort={sorted?.id === "" ? (sorted.down ? "ascending" : "descending") : "none"}
                ><button onclick={() => sortBy("")} title="Sorts by name; again turns it round, once more is run order"
                  >Sample{sorted?.id === "" ? (sorted.down ? " ↓" : " ↑") : ""}</button
                ></th
              >{#each mode === "mean" ? columns : columns.slice(0, compounds.length) as c, k (c.id)}<th
                  class:on={k === col}
                  class:group={k >= compounds.length}
                  aria-sort={sorted?.id === c.id ? (sorted.down ? "descending" : "ascending") : "none"}
                  ><button onclick={() => sortBy(c.id)} title={`Sorts by ${c.name}; again turns it round, once more is run order`}
                    >{c.name}{sorted?.id === c.id ? (sorted.down ? " ↓" : " ↑") : ""}</button
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
    {/if}
  </main>
  {#snippet waiting()}
    <h2 class="att">Previewing</h2>
    <span class="note">{draft.what}</span>
    <button class="btn pri" onclick={() => draft.keep(batch)}>Keep <kbd>Enter</kbd></button>
    <button class="btn" onclick={() => draft.discard()}>Discard <kbd>Esc</kbd></button>
  {/snippet}
  <Side waiting={tried ? waiting : undefined}>
    {#if view === "summary"}<SummarySide {batch} s={summary} take={takeSummary} {copied} />
    {:else if view === "fields"}<FieldsSide {batch} />
    {:else if view === "trends"}<TrendsSide {batch} {compound} />
    {:else if tried}<Previewing {batch} method={tried} injection={current} compound={compound?.id ?? ""} />
    {:else if column && working}<WorkingView batch={batch.id} revision={batch.revision} injection={working} compound={column.id} />
    {:else}<section>
        <h2>Working</h2>
        <p class="note">Choose a number to see how it came about.</p>
      </section>{/if}
    <Notices {batch} {result} station="results" />
  </Side>
  <Foot
    hints={view === "amounts"
      ? [
          ["↑ ↓", "way of reporting"],
          ["J|K", "another sample"],
          ["Ctrl V", "paste levels into the table"],
          ["Enter", "keep"],
          ["Esc", "discard"],
        ]
      : view === "trends"
        ? [
            ["[|]", "point"],
            ["1–9", "compound"],
            ["A", "add a chart"],
            ["M", "mark"],
            ["Enter", "its peak"],
            ["J|K", "injection"],
          ]
        : view === "fields"
          ? [
              ["[|]", "field"],
              ["A", "new field"],
              ["Ctrl Space", "what can stand here"],
              ["Tab", "takes the word"],
              ["J|K", "injection"],
              ["Enter", "keep"],
            ]
          : view === "summary"
            ? [
                ["+|-", "open, fold all groups"],
                ["Alt T", "turn the tables"],
                ["Ctrl C", "copy as it stands"],
              ]
            : [
                ["arrows", "cell to cell"],
                ["P", "its peak"],
                ["C", "its curve"],
                ["J|K", "run order"],
              ]}
  >
    {#if view === "trends"}Computed limits are of batches before, never of the one they judge{:else if view === "fields"}Fields are plain
      formulas: no clock, no files, no network{:else if view === "summary"}Every number shows its working{:else if result}{rows.reduce(
        (n, r) => n + r.cells.filter((c) => c.flags.length === 0).length,
        0,
      )} of {rows.reduce((n, r) => n + r.cells.length, 0)} values free of remarks{/if}
  </Foot>
</div>

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
