<script lang="ts">
  import { createQuery } from "@tanstack/svelte-query";
  import type { Edit, Settings } from "../../api/client";
  import { fixed, missing, significant } from "../../look/number";
  import Foot from "../../parts/Foot.svelte";
  import Notices from "../../parts/Notices.svelte";
  import Ruler from "../../parts/Ruler.svelte";
  import Chromatogram, { type Shown } from "../../plot/Chromatogram.svelte";
  import Minimap from "../../plot/Minimap.svelte";
  import { Window } from "../../plot/window.svelte";
  import { ask, desk, queries, replicate } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { reason } from "../../state/reason.svelte";
  import type { StationProps } from "../props";
  import Changes from "./Changes.svelte";
  import PeakTable from "./PeakTable.svelte";
  import TimeRules from "./TimeRules.svelte";
  import { trial } from "./trial.svelte";

  let { batch, result, index, stale }: StationProps = $props();

  const injection = $derived(batch.injections[index]);
  const method = $derived(batch.version.method);
  const unit = $derived(injection?.unit || "signal");
  const trace = createQuery(() => ask.trace(batch.id, injection?.id ?? ""));
  // The neighbours are read ahead, so that walking never waits.
  $effect(() => {
    for (const step of [1, -1, 2]) {
      const next = batch.injections[index + step];
      if (next) void queries.prefetchQuery(ask.trace(batch.id, next.id));
    }
  });
  let behind = $state(false);
  const twin = $derived(batch.injections.find((i, k) => k !== index && i.name === injection?.name && i.role === injection?.role));
  const far = createQuery(() => ({ ...ask.trace(batch.id, twin?.id ?? ""), enabled: behind && !!twin }));

  const view = new Window();
  let placed = false;
  $effect(() => {
    const { from, to } = place.query;
    if (view.open(trace.data, result?.injections[index]?.peaks)) {
      placed = true;
      if (from && to) view.show(Number(from), Number(to), false); // the address names another stretch
    }
  });
  let placing: ReturnType<typeof setTimeout>;
  $effect(() => {
    const query = { from: view.from.toFixed(3), to: view.to.toFixed(3) };
    if (!placed) return;
    clearTimeout(placing);
    placing = setTimeout(() => place.station === "peaks" && place.go({ query }, false), 300);
  });
  $effect(() => () => clearTimeout(placing));

  const names = $derived(new Map(method.compounds.map((c) => [c.id, c])));
  const shownOf = (peaks: Shown[] | undefined | Omit<Shown, "name" | "standard">[]): Shown[] =>
    (peaks ?? []).map((p) => ({
      ...p,
      name: names.get(p.compound_id)?.name ?? "",
      standard: names.get(p.compound_id)?.role === "internal_standard",
    }));
  const saved = $derived(shownOf(result?.injections[index]?.peaks));
  let asSaved = $state(false); // held: show what is saved instead of the preview
  const tried = $derived(trial.injected && trial.injected.id === injection?.id ? shownOf(trial.injected.peaks) : null);
  const shown = $derived(tried && !asSaved ? tried : saved);

  let selected = $state<number | null>(null);
  let hovered = $state<number | null>(null);
  let labels = $state(true);
  let pointer = $state<number | null>(null);
  // The compound of the address is selected whenever its peak comes into sight.
  $effect(() => {
    const wanted = place.query.c;
    const hit = saved.find((p) => p.compound_id && p.compound_id === wanted);
    if (hit) selected = hit.number;
  });
  function select(n: number | null) {
    selected = n;
    const p = shown.find((q) => q.number === n);
    place.go({ query: { c: p?.compound_id ?? "" } }, false);
  }
  const chosenPeak = $derived(shown.find((p) => p.number === selected));

  // Settings: a draft that is tried while it moves.
  let draft = $state<Settings | null>(null);
  let edits = $state<Edit[] | null>(null);
  const settings = $derived(draft ?? method.peaks);
  const previewing = $derived(draft !== null || edits !== null);
  const usedWidth = $derived(method.peaks.width_min || result?.injections[index]?.width_min || 0.1);

  function tune(change: Partial<Settings>) {
    if (!injection) return;
    edits = null;
    draft = { ...settings, ...change };
    trial.try({ batch: batch.id, injection: injection.id, settings: draft, edits: null });
  }
  function discard() {
    draft = null;
    edits = null;
    trial.stop();
  }
  async function keep() {
    if (draft) {
      const why = await reason.ask(
        "Keep as a new method version",
        `${method.compounds.length} compounds, whole batch, ${batch.injections.length} injections.`,
      );
      if (why && draft && (await desk.saveMethod({ ...method, peaks: draft }, why))) discard();
    } else if (edits && injection) {
      const last = edits.at(-1)!;
      const why = await reason.ask("Keep this edit", `${describe(last)}, in ${injection.name} only.`);
      if (why && (await desk.addEdit(injection.id, last, why))) discard();
    }
  }
  // A trial belongs to its injection.
  $effect(() => {
    void injection?.id;
    return () => {
      if (edits) discard();
      else if (draft) trial.stop();
    };
  });
  $effect(() => {
    if (draft && injection && trial.injected === null)
      trial.try({ batch: batch.id, injection: injection.id, settings: draft, edits: null });
  });
  $effect(() => () => trial.stop());

  function describe(e: Edit): string {
    const at = `${e.apex_min.toFixed(2)} min`;
    const to = `${(e.to_min ?? 0).toFixed(3)} min`;
    switch (e.kind) {
      case "remove":
        return `Remove the peak at ${at}`;
      case "split":
        return `Split the peak at ${at} at ${to}`;
      case "merge_left":
        return `Merge the peak at ${at} with the one before`;
      case "add":
        return `Add a peak from ${at} to ${to}`;
    }
    return `Move the ${e.kind === "move_start" ? "start" : "end"} of ${at} to ${to}`;
  }
  const refusals: Record<string, string> = {
    move_start: "A boundary cannot pass an apex, its own or its neighbour's.",
    move_end: "A boundary cannot pass an apex, its own or its neighbour's.",
    split: "A peak can be split only between its boundaries.",
    merge_left: "There is no peak that touches it on the left.",
    add: "There is a peak in this stretch already.",
  };
  const refused = $derived(
    edits && trial.injected?.unmatched_edits?.length ? (refusals[edits.at(-1)?.kind ?? ""] ?? "This cannot be done here.") : "",
  );
  function tryEdit(e: Edit) {
    if (!injection) return;
    draft = null;
    edits = [...injection.edits, e];
    trial.try({ batch: batch.id, injection: injection.id, settings: method.peaks, edits });
  }
  function moveBoundary(p: Shown, side: "start" | "end", toMin: number, kept: boolean) {
    if (kept && !edits) return;
    if (!kept) tryEdit({ kind: side === "start" ? "move_start" : "move_end", apex_min: p.apex_min, to_min: toMin });
  }
  function removePeak() {
    if (chosenPeak) tryEdit({ kind: "remove", apex_min: chosenPeak.apex_min });
  }

  /** The peak under the pointer, or the selected one. */
  const aimed = () => shown.find((p) => p.number === hovered) ?? chosenPeak;
  function splitPeak() {
    const p = aimed();
    if (p && pointer !== null) tryEdit({ kind: "split", apex_min: p.apex_min, to_min: pointer });
  }
  function mergeLeft() {
    const p = aimed();
    if (p) tryEdit({ kind: "merge_left", apex_min: p.apex_min });
  }

  const amount = $derived.by(() => {
    const id = chosenPeak?.compound_id;
    const now = id ? result?.injections[index]?.readings[id] : undefined;
    const then = id ? trial.injected?.readings[id] : undefined;
    if (!id || !now || !then || !edits) return null;
    const inSample = now.amount !== null;
    return {
      name: names.get(id)!.name,
      unit: inSample ? method.amounts.unit : method.curves.unit,
      before: significant(inSample ? now.amount : now.concentration, 4),
      after: significant(inSample ? then.amount : then.concentration, 4),
    };
  });

  function walkPeaks(step: number) {
    if (shown.length === 0) return;
    const at = shown.findIndex((p) => p.number === selected);
    const next = shown[at < 0 ? (step > 0 ? 0 : shown.length - 1) : Math.max(0, Math.min(shown.length - 1, at + step))]!;
    select(next.number);
    if (next.apex_min < view.from || next.apex_min > view.to) {
      const span = view.to - view.from;
      view.show(next.apex_min - span / 2, next.apex_min + span / 2);
    }
  }
  $effect(() =>
    keys({
      ...view.keys(),
      "[": () => walkPeaks(-1),
      "]": () => walkPeaks(1),
      Enter: () => previewing && keep(),
      Escape: () => (previewing ? discard() : select(null)),
      Delete: removePeak,
      s: splitPeak,
      m: mergeLeft,
      b: () => (asSaved = true),
    }),
  );
</script>

<svelte:window onkeyup={(e) => e.key.toLowerCase() === "b" && (asSaved = false)} />

<div class="stage rows">
  <main class="main">
    {#if !injection}
      <div class="empty">
        No injections yet. <button class="btn" onclick={() => place.go({ station: "batch" })}>Add files</button>
      </div>
    {:else}
      <div class="head">
        <h1>{injection.name} <em>{replicate(batch, index)}</em></h1>
        <span class="note">
          injection {index + 1} of {batch.injections.length}{injection.vial ? ` · vial ${injection.vial}` : ""}{injection.sample
            ? ` · ${injection.sample} ${method.amounts.sample_unit}`
            : ""} · {shown.length} peaks,
          {shown.filter((p) => p.name).length} named{stale ? " · processing …" : ""}
        </span>
        <span class="tools">
          {#if previewing}<span class="att">{asSaved ? "As saved" : "Previewing"}</span>{/if}
          {#if twin}<label class="chk"><input type="checkbox" bind:checked={behind} />replicate behind</label>{/if}
          <label class="chk"><input type="checkbox" bind:checked={labels} />Labels</label>
          <button onclick={() => view.all()}><kbd>0</kbd> whole run</button>
        </span>
      </div>
      {#if trace.isError}
        <div class="empty">
          {trace.error.message} <button class="btn" onclick={() => trace.refetch()}>Try again</button>
        </div>
      {:else}
        <Chromatogram
          trace={trace.data}
          {unit}
          peaks={shown}
          asSaved={previewing && tried && !asSaved ? saved : []}
          {selected}
          {hovered}
          {view}
          {labels}
          far={behind ? far.data : undefined}
          {select}
          hover={(n) => (hovered = n)}
          {moveBoundary}
          addPeak={(from, to) => tryEdit({ kind: "add", apex_min: from, to_min: to })}
          bind:pointer
        />
        <Minimap trace={trace.data} {view} />
        <PeakTable
          pending={!result}
          peaks={shown}
          {unit}
          {method}
          {selected}
          {hovered}
          select={(n) => select(n)}
          hover={(n) => (hovered = n)}
        />
      {/if}
    {/if}
  </main>
  <aside class="side">
    <section aria-label="Integration">
      <h2>Integration <span class="r">whole batch, {batch.injections.length} injections</span></h2>
      <Ruler
        label="Peak width"
        unit="min"
        value={settings.width_min || usedWidth}
        saved={usedWidth}
        low={0.01}
        high={2}
        logarithmic
        format={(v) => significant(v, 3)}
        change={(v) => tune({ width_min: Number(v.toPrecision(3)) })}
      />
      <Ruler
        label="Noise threshold"
        unit="× noise"
        value={settings.threshold || 5}
        saved={method.peaks.threshold || 5}
        low={2}
        high={200}
        logarithmic
        format={(v) => significant(v, 3)}
        change={(v) => tune({ threshold: Number(v.toPrecision(3)) })}
      />
      <Ruler
        label="Least area"
        unit="{unit}·s"
        value={settings.least_area}
        saved={method.peaks.least_area}
        low={0}
        high={50}
        format={(v) => significant(v, 3)}
        change={(v) => tune({ least_area: Number(v.toPrecision(3)) })}
      />
      <Ruler
        label="Skim tails smaller than"
        unit="%"
        value={settings.skim_percent ?? 0}
        saved={method.peaks.skim_percent ?? 0}
        low={0}
        high={50}
        format={(v) => (v === 0 ? "off" : significant(v, 2))}
        change={(v) => tune({ skim_percent: Number(v.toPrecision(2)) })}
      />
      {#if trial.trouble}<p class="note att" role="alert">{trial.trouble}</p>{/if}
    </section>
    {#if previewing}
      {#if refused}<p class="note att" role="alert">{refused}</p>{/if}
      <Changes before={saved} after={tried ?? saved} {unit} whole={trial.whole} {amount} {keep} {discard} />
    {/if}
    <TimeRules
      rules={settings.time_rules ?? []}
      trace={trace.data}
      from={view.from}
      to={view.to}
      change={(time_rules) => tune({ time_rules })}
    />
    {#if injection}
      <section aria-label="Edits">
        <h2>
          Edits <span class="r">{injection.edits.length ? `${injection.edits.length} by hand, here` : "none here"}</span>
        </h2>
        {#each injection.edits as e, i (i)}
          <p class="edit">
            <span>{describe(e)}</span><button class="lnk" onclick={() => desk.takeBack(injection.id, i)}>take back</button>
          </p>
        {/each}
        {#if injection.edits.length > 0}<button class="lnk" onclick={() => desk.takeBack(injection.id, -1)}>Return to raw</button>
        {:else}<p class="note">
            Select a peak and drag a boundary under it. S splits at the pointer, M merges with the peak on the left, Delete removes, Shift
            drag adds one.
          </p>{/if}
      </section>
    {/if}
    <Notices {batch} {result} station="peaks" />
  </aside>
  <Foot
    hints={[
      ["J", ""],
      ["K", "run order"],
      ["[", ""],
      ["]", "peak"],
      ["drag", "zoom"],
      ["wheel", "time"],
      ["Shift wheel", "signal"],
      ["S", "split"],
      ["M", "merge left"],
      ["Shift drag", "add peak"],
    ]}
  >
    {#if chosenPeak}
      {chosenPeak.name || "unnamed"}: area {significant(chosenPeak.area_s, 4)} ± {significant(chosenPeak.area_standard_uncertainty_s, 2)}
      {unit}·s over {fixed(chosenPeak.start_min, 3)} – {fixed(chosenPeak.end_min, 3)} min
    {:else if pointer !== null && trace.data}
      {fixed(pointer, 3)} min
    {:else}{desk.done || missing}{/if}
  </Foot>
</div>

<style>
  .rows {
    grid-template-rows: minmax(0, 1fr) 24px;
  }
  .edit {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    font-size: 12.5px;
    line-height: 21px;
  }
</style>
