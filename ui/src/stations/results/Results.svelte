<script lang="ts">
  import Fields from "./Fields.svelte";
  import Trends from "./Trends.svelte";
  import TrendsSide from "./TrendsSide.svelte";
  import FieldsSide from "./FieldsSide.svelte";
  import type { Method } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";
  import { createQuery, keepPreviousData } from "@tanstack/svelte-query";
  import { ask } from "../../state/ask";
  import AnyQuantity from "./AnyQuantity.svelte";
  import { shown as shownMeasures } from "./summary.svelte";
  import SummarySide from "./SummarySide.svelte";
  import SummaryTables from "./SummaryTables.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Notices from "../../parts/Notices.svelte";
  import { copied } from "../../state/copying";
  import { desk } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place, stationsOf } from "../../state/place.svelte";
  import type { StationProps } from "../props";
  import { reason } from "../../state/reason.svelte";
  import Amounts from "./Amounts.svelte";
  import Changed from "./Changed.svelte";
  import Matrix from "./Matrix.svelte";
  import { looking } from "./matrix.svelte";
  import Screening from "./Screening.svelte";
  import ScreeningSide from "./ScreeningSide.svelte";
  import { screening } from "./screening.svelte";
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
  const faces = ["matrix", "screening", "summary", "any", "trends", "fields", "checks", "changed", "amounts"] as const;
  type Tab = (typeof faces)[number];
  const view = $derived<Tab>(faces.find((f) => f === place.query.face) ?? "matrix");
  let height = $state(1000);
  /** Where samples are screened, or could be: by rules of the method, or by spectra. */
  const screens = $derived(!!method.screening || view === "screening" || stationsOf(batch).includes("spectra"));
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
  let taken = $state(false);
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
    taken = await copied(text);
    setTimeout(() => (taken = false), 2000);
  }
  const all = $derived(result ? looking.all(batch, result, compounds, groups, weighed) : []);
  const rows = $derived(looking.shown(all, columns));

  const current = $derived(batch.injections[index]?.id ?? "");
  const col = $derived(
    Math.max(
      0,
      columns.findIndex((c) => c.id === place.query.c),
    ),
  );
  const column = $derived(columns[col]);
  const compound = $derived(compounds[col]);

  $effect(() =>
    keys({
      p: () => place.go({ station: "peaks", query: { i: current, c: compound?.id } }),
      c: () => place.go({ station: "curves", query: { c: compound?.id } }),
    }),
  );
  // A row of means stands for its sample; a check or a standard, which has no row here, still shows its working.
  const working = $derived(column ? current : "");
</script>

<div class="stage">
  <main class="main" bind:clientHeight={height}>
    <div class="head">
      <h1>Results</h1>
      <span class="note"
        >{#if view === "screening"}by the evidence{stale ? " · processing …" : ""}{:else if view === "trends"}since when, and what happened
          then{:else if view === "fields"}the laboratory's own quantities · kept with the method{:else if view === "summary"}{summary
            ? `${summary.injections.length} injections${shownMeasures.by === "none" ? "" : ` by ${batch.own_columns.find((c) => `own:${c.id}` === shownMeasures.by)?.name ?? shownMeasures.by}`}`
            : ""}{stale ? " · processing …" : ""}{:else if view === "amounts"}for {batch.injections.length === 1
            ? "the one injection"
            : `all ${batch.injections.length} injections`}{stale ? " · processing …" : ""}{:else}{looking.mode === "concentration"
            ? method.curves.unit
            : reported} · {looking.mode === "mean"
            ? "mean of replicates, relative SD below"
            : "standard uncertainty of the calibration below"}{stale ? " · processing …" : ""}{/if}</span
      >
      <span class="tools">
        {#if view === "screening"}<label class="chk" title="Shows only samples in which something was found"
            ><input type="checkbox" bind:checked={screening.onlyFound} />only what is found</label
          >
        {:else if view === "matrix"}
          <input
            class="field seek"
            aria-label="Filter by name"
            title="Shows the rows whose name holds this"
            placeholder="filter"
            bind:value={looking.sought}
          />
          <label class="chk" title="Shows only rows with something to look at"
            ><input type="checkbox" bind:checked={looking.flagged} />flagged</label
          >
          <label class="chk" title="Shows 95 % intervals in place of standard deviations"
            ><input type="checkbox" bind:checked={looking.intervals} />95 %</label
          >
          <Choice
            label="What is shown"
            options={[
              ["mean", "mean"],
              ["each", "each replicate"],
              ["concentration", method.curves.unit],
            ]}
            value={looking.mode}
            choose={(m) => (looking.mode = m)}
          />
        {/if}
        <Choice
          label="View"
          options={[
            ["matrix", "matrix"],
            ...(screens ? ([["screening", "screening"]] as [Tab, string][]) : []),
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
    {:else if view === "screening"}
      <Screening {batch} {index} />
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
      <Matrix {batch} {result} {columns} {compounds} {rows} {col} {current} {height} />
    {/if}
  </main>
  {#snippet waiting()}
    <h2 class="att">Previewing</h2>
    <span class="note">{draft.what}</span>
    <button class="btn pri" title="Keeps it as a new version of the method" onclick={() => draft.keep(batch)}>Keep <kbd>Enter</kbd></button>
    <button class="btn" title="Goes back to what is kept" onclick={() => draft.discard()}>Discard <kbd>Esc</kbd></button>
  {/snippet}
  <Side waiting={tried ? waiting : undefined}>
    {#if view === "screening"}<ScreeningSide {batch} />
    {:else if view === "summary"}<SummarySide {batch} s={summary} take={takeSummary} copied={taken} />
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
    hints={view === "screening"
      ? [
          ["arrows", "cell to cell"],
          ["[|]", "what waits"],
          ["Enter", "present"],
          ["X", "not present"],
          ["Q", "inject again"],
          ["Shift Enter", "confirm all with all evidence inside"],
        ]
      : view === "amounts"
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
    {#if view === "screening"}What is undecided is not reported as present{:else if view === "trends"}Computed limits are of batches before,
      never of the one they judge{:else if view === "fields"}Fields are plain formulas: no clock, no files, no network{:else if view === "summary"}Every
      number shows its working{:else if result}{rows.reduce((n, r) => n + r.cells.filter((c) => c.flags.length === 0).length, 0)} of {rows.reduce(
        (n, r) => n + r.cells.length,
        0,
      )} values free of remarks{/if}
  </Foot>
</div>
