<script lang="ts">
  import { createQuery } from "@tanstack/svelte-query";
  import { untrack } from "svelte";
  import type { Proposal } from "../../api/client";
  import { count, fixed, missing, significant } from "../../look/number";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Notices from "../../parts/Notices.svelte";
  import Chromatogram, { type Shown } from "../../plot/Chromatogram.svelte";
  import Lanes from "../../plot/Lanes.svelte";
  import { lanes } from "../../plot/lanes.svelte";
  import ChannelChoice from "../../parts/ChannelChoice.svelte";
  import LanesToggle from "../../plot/LanesToggle.svelte";
  import LabelMenu from "../../plot/LabelMenu.svelte";
  import Minimap from "../../plot/Minimap.svelte";
  import { Window } from "../../plot/window.svelte";
  import { ask, queries } from "../../state/ask";
  import { desk, replicate, traced } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { channelIn } from "../../state/channel";
  import { place } from "../../state/place.svelte";
  import NameField from "../compounds/NameField.svelte";
  import { named } from "../compounds/naming";
  import type { StationProps } from "../props";
  import Beside from "./Beside.svelte";
  import Changes from "./Changes.svelte";
  import { Draft } from "./draft.svelte";
  import Edits from "./Edits.svelte";
  import ExamplePanel from "./ExamplePanel.svelte";
  import { examples } from "./examples.svelte";
  import Integration from "./Integration.svelte";
  import PeakPanel from "./PeakPanel.svelte";
  import PeakTable from "./PeakTable.svelte";
  import Proposals from "./Proposals.svelte";
  import TimeRules from "./TimeRules.svelte";
  import { trial } from "./trial.svelte";
  import { describe, type Part } from "./words";

  let { batch, result, index, stale, channel }: StationProps = $props();

  const injection = $derived(batch.injections[index]);
  const method = $derived(batch.version.method);
  const unit = $derived(result?.injections[index]?.unit || (channel.id === method.channels[0]!.id ? injection?.unit : "") || "signal");
  const trace = createQuery(() => ask.trace(batch.id, traced(injection), channel.id));
  // The neighbours are read ahead, so that walking never waits.
  $effect(() => {
    for (const step of [1, -1, 2]) {
      const next = batch.injections[index + step];
      if (next && traced(next)) void queries.prefetchQuery(ask.trace(batch.id, next.id, channel.id));
    }
  });
  let behind = $state(false);
  const twin = $derived(batch.injections.find((i, k) => k !== index && i.name === injection?.name && i.role === injection?.role));
  const far = createQuery(() => ({ ...ask.trace(batch.id, traced(twin), channel.id), enabled: behind && !!twin }));

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
  // Beside a sample stands a standard, beside anything else a sample, until another is chosen.
  let beside = $state("");
  const counterpart = () => {
    const wanted = injection?.role === "sample" ? "standard" : "sample";
    const list = batch.injections.filter((i) => i.role === wanted);
    return (list[Math.floor(list.length / 2)] ?? batch.injections.find((i) => i.id !== injection?.id))?.id ?? "";
  };
  const besidePeaks = $derived(
    shownOf(
      trial.beside && trial.beside.id === beside && !asSaved
        ? trial.beside.peaks
        : result?.injections[batch.injections.findIndex((i) => i.id === beside)]?.peaks,
    ),
  );
  const tried = $derived(trial.injected && trial.injected.id === injection?.id ? shownOf(trial.injected.peaks) : null);
  const shown = $derived(tried && !asSaved ? tried : saved);

  let selected = $state<number | null>(null);
  let hovered = $state<number | null>(null);
  let pointer = $state<number | null>(null);
  // The compound of the address is selected whenever its peak comes into sight.
  $effect(() => {
    const wanted = place.query.c;
    const hit = saved.find((p) => p.compound_id && p.compound_id === wanted);
    if (hit) selected = hit.number;
  });
  function select(n: number | null) {
    naming = false;
    selected = n;
    const p = shown.find((q) => q.number === n);
    place.go({ query: { c: p?.compound_id ?? "" } }, false);
  }
  const chosenPeak = $derived(shown.find((p) => p.number === selected));

  // Settings and edits are a draft, which is tried while it moves.
  const draft = new Draft(() => ({ batch, channel, injection, beside }));
  const usedWidth = $derived(channel.peaks.width_min || result?.injections[index]?.width_min || 0.1);

  // A trial belongs to its injection.
  const here = $derived(`${injection?.id ?? ""} ${channel.id}`);
  $effect(() => {
    void here;
    return () => {
      draft.pending = [];
      trial.stop();
    };
  });
  $effect(() => {
    if (draft.previewing && injection && trial.injected === null && !trial.trouble) draft.attempt();
  });
  // Somebody else has changed the injection or the method: the preview is tried on that.
  const ground = $derived(`${JSON.stringify(injection?.edits ?? [])} ${batch.version.id}`);
  $effect(() => {
    void ground;
    untrack(() => draft.attempt());
  });
  // Settings that are tried, and marks, are of one channel.
  const looked = $derived(channel.id);
  $effect(() => {
    void looked;
    return () => {
      draft.discard();
      examples.close();
    };
  });

  function moveBoundary(p: Shown, side: "start" | "end", toMin: number, kept: boolean) {
    if (kept && !draft.edits) return;
    if (!kept) draft.edit({ kind: side === "start" ? "move_start" : "move_end", apex_min: p.apex_min, to_min: toMin });
  }
  /** Removes the selected peak. Nothing else is selected in its place, so that a second press removes no second peak. */
  function removePeak() {
    const gone = chosenPeak;
    if (!gone) return;
    select(null);
    draft.edit({ kind: "remove", apex_min: gone.apex_min });
  }

  /** The peak under the pointer, or the selected one. */
  const aimed = () => shown.find((p) => p.number === hovered) ?? chosenPeak;
  function splitPeak() {
    const p = aimed();
    if (p && pointer !== null) draft.edit({ kind: "split", apex_min: p.apex_min, to_min: pointer });
  }
  function mergeLeft() {
    const p = aimed();
    if (p) draft.edit({ kind: "merge_left", apex_min: p.apex_min });
  }

  function partPeak(how: Part) {
    const p = chosenPeak;
    if (p) draft.edit({ kind: "part", apex_min: p.apex_min, how });
  }
  /** Puts an anchor on the trace where the pointer is, or moves the one that is there to a signal level. */
  function anchor(atMin: number | null = pointer, level?: number) {
    if (atMin === null) return;
    draft.edit({ kind: "anchor", apex_min: Number(atMin.toFixed(4)), ...(level === undefined ? {} : { level }) });
  }
  /** The anchors as they stand: of two at one place the later. */
  const anchors = $derived([
    ...new Map(
      (draft.edits ?? injection?.edits ?? [])
        .filter((e) => e.kind === "anchor" && e.channel === channelIn(method, channel))
        .map((e) => [e.apex_min, e]),
    ).values(),
  ]);
  const touches = (p: Shown) =>
    shown.some((q) => q.number !== p.number && q.start_min <= p.end_min + 1e-9 && q.end_min >= p.start_min - 1e-9);
  function pick(n: number | null, aside: boolean) {
    const p = shown.find((q) => q.number === n);
    if (examples.open && injection && p) examples.mark(injection.id, p.apex_min, !aside, (p.end_min - p.start_min) / 2);
    else select(n);
  }
  function markHere(keep: boolean) {
    const p = shown.find((q) => q.number === hovered);
    if (examples.open && injection && pointer !== null) examples.mark(injection.id, p?.apex_min ?? pointer, keep);
  }
  let rules = $state<TimeRules>();

  // Fits take their time, so proposals are asked for when an injection has been looked at for a moment.
  let lookedAt = $state("");
  $effect(() => {
    const id = injection?.id ?? "";
    const rest = setTimeout(() => (lookedAt = id), 400);
    return () => clearTimeout(rest);
  });
  const proposed = createQuery(() =>
    ask.proposals(batch.id, batch.revision, lookedAt === injection?.id && !stale ? lookedAt : "", channel.id),
  );
  const proposals = $derived(draft.previewing || lookedAt !== injection?.id ? [] : (proposed.data ?? []));
  const dropped = $derived((tried && !asSaved ? trial.injected?.dropped : result?.injections[index]?.dropped) ?? []);
  const silence = $derived.by(() => {
    if (!injection) return "Nothing: there is no injection yet.";
    if (draft.previewing) return "Looked for again when this change is kept or discarded.";
    if (proposed.isError) return proposed.error.message;
    return proposed.data && lookedAt === injection?.id ? "Nothing: every peak found is measured, and drops part them well." : "Looking…";
  });
  /** Tries a proposal as a time rule, so that it holds in every injection. */
  function take(p: Proposal) {
    const rule = { kind: "part" as const, from_min: Number(p.from_min.toFixed(3)), to_min: Number(p.to_min.toFixed(3)), how: p.part_by };
    draft.tune({ time_rules: [...(draft.settings.time_rules ?? []), rule].toSorted((a, b) => a.from_min - b.from_min) });
  }
  const nameAt = (at: number) => shown.find((p) => Math.abs(p.apex_min - at) < 0.02)?.name || "the peak";
  function showAt(at: number) {
    const p = shown.find((q) => Math.abs(q.apex_min - at) < 0.02);
    if (p) select(p.number);
    if (at < view.from || at > view.to) {
      const span = view.to - view.from;
      view.show(at - span / 2, at + span / 2);
    }
  }

  const amount = $derived.by(() => {
    const id = chosenPeak?.compound_id;
    const now = id ? result?.injections[index]?.readings[id] : undefined;
    const then = id ? trial.injected?.readings[id] : undefined;
    if (!id || !now || !then || !draft.edits) return null;
    const inSample = now.amount !== null;
    return {
      name: names.get(id)!.name,
      unit: inSample ? method.amounts.unit : method.curves.unit,
      before: significant(inSample ? now.amount : now.concentration, 4),
      after: significant(inSample ? then.amount : then.concentration, 4),
    };
  });

  /** A peak is named here as at Compounds, once nothing is previewed: a name belongs to a peak that is there. */
  let naming = $state(false);
  async function name(text: string) {
    const change = chosenPeak && named(method.compounds, chosenPeak, saved, text, channelIn(method, channel));
    naming = false;
    if (change && (await desk.saveMethod({ ...method, compounds: change.compounds }, change.why)))
      place.go({ query: { c: change.id } }, false);
  }

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
      Enter: () => draft.previewing && !draft.refused && draft.keep(),
      "shift+Enter": () => proposals[0] && take(proposals[0]),
      Escape: () => (draft.previewing ? draft.discard() : select(null)),
      Delete: removePeak,
      n: () => (naming = !draft.previewing && chosenPeak !== undefined),
      s: splitPeak,
      m: mergeLeft,
      b: () => (asSaved = true),
      a: () => (examples.open ? markHere(true) : anchor()),
      d: () => partPeak("drop"),
      v: () => partPeak("valley"),
      g: () => partPeak("tangent"),
      e: () => partPeak("exponential"),
      f: () => partPeak("fit"),
      t: () => pointer !== null && rules?.create(pointer - usedWidth * 2, pointer + usedWidth * 2),
      // While something is previewed, undo takes back the preview and nothing that was kept.
      ...(draft.previewing ? { "mod+z": () => draft.stepBack() } : {}),
      ...(examples.open ? { x: () => markHere(false) } : {}),
    }),
  );
</script>

<svelte:window onkeyup={(e) => e.key.toLowerCase() === "b" && (asSaved = false)} />

<div class="stage">
  <main class="main">
    {#if !injection}
      <div class="empty">
        No injections yet. <button
          class="btn"
          title="Opens the batch, where files are dropped"
          onclick={() => place.go({ station: "batch" })}>Add files</button
        >
      </div>
    {:else}
      <div class="head">
        <h1 title={injection.name}>{injection.name} <em>{replicate(batch, index)}</em></h1>
        <span class="note">
          injection {index + 1} of {batch.injections.length}{injection.vial ? ` · vial ${injection.vial}` : ""}{injection.sample
            ? ` · ${injection.sample} ${method.amounts.sample_unit}`
            : ""} · {count(shown.length, "peak")},
          {shown.filter((p) => p.name).length} named{stale ? " · processing …" : ""}
        </span>
        <span class="tools">
          {#if draft.previewing}<span class="att">{asSaved ? "As saved" : "Previewing"}</span>{/if}
          {#if twin}<label class="chk" title="Draws the other replicate of this sample behind"
              ><input type="checkbox" bind:checked={behind} />replicate behind</label
            >{/if}
          <label class="chk" title="Draws another injection below, integrated by the same settings"
            ><input
              type="checkbox"
              checked={beside !== ""}
              onchange={(e) => ((beside = e.currentTarget.checked ? counterpart() : ""), draft.attempt())}
            />another below</label
          >
          <ChannelChoice {batch} {channel} />
          <LanesToggle {batch} />
          <LabelMenu />
          <button onclick={() => view.all()} title="Shows the whole run (0)"><kbd>0</kbd> whole run</button>
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
          asSaved={draft.previewing && tried && !asSaved ? saved : []}
          {selected}
          {hovered}
          {view}
          far={behind ? far.data : undefined}
          select={pick}
          hover={(n) => (hovered = n)}
          {moveBoundary}
          {anchors}
          moveAnchor={(at, level) => anchor(at, level)}
          marks={examples.open ? examples.marks.filter((m) => m.injection_id === injection.id) : []}
          addPeak={(from, to) => draft.edit({ kind: "add", apex_min: from, to_min: to })}
          bind:pointer
        >
          {#snippet over(f)}
            {#if chosenPeak && naming}
              <NameField
                {f}
                peak={chosenPeak}
                y={chosenPeak.baseline_start + chosenPeak.height}
                list={method.compounds}
                {name}
                leave={() => (naming = false)}
              />
            {/if}
          {/snippet}
        </Chromatogram>
        {#if lanes.shown}
          <Lanes batch={batch.id} injection={injection.id} traces={String(injection.trace)} {view} {pointer} />
        {/if}
        <Minimap trace={trace.data} {view} />
        {#if beside}
          <Beside
            {batch}
            id={beside}
            channel={channel.id}
            peaks={besidePeaks}
            {view}
            selectedName={chosenPeak?.name ?? ""}
            choose={(id) => ((beside = id), draft.attempt())}
          />
        {:else}
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
    {/if}
  </main>
  {#snippet waiting()}
    {#if draft.refused}
      <span class="att" role="alert">{draft.refused}</span>
    {:else}
      <h2 class="att">Previewing</h2>
      <span class="note"
        >{[...draft.pending.map(describe), draft.tuned ? "integration of the whole batch" : ""].filter(Boolean).join("; ")}{trial.whole
          ? `: ${trial.whole.moved} areas move, ${trial.whole.gone} go, ${trial.whole.new} come`
          : ""}</span
      >
      <button class="btn pri" title="Keeps it as a new version of the method" onclick={() => draft.keep()}>Keep <kbd>Enter</kbd></button>
    {/if}
    <button class="btn" title="Goes back to what is kept" onclick={() => draft.discard()}>Discard <kbd>Esc</kbd></button>
  {/snippet}
  <Side waiting={draft.previewing ? waiting : undefined}>
    <Integration
      settings={draft.settings}
      saved={channel.peaks}
      {usedWidth}
      expected={result?.expected.find((e) => e.channel === channel.id && e.trace === result?.injections[index]?.trace)}
      {unit}
      injections={batch.injections.length}
      trouble={trial.trouble}
      tune={(c) => draft.tune(c)}
      examples={() => (examples.open = true)}
    />
    {#if examples.open}<ExamplePanel {batch} channel={channel.id} from={view.from} to={view.to} use={(s) => draft.tune(s)} />{/if}
    {#if draft.previewing}
      {#if draft.refused}
        <p class="att" role="alert">
          {draft.refused} <button class="lnk" title="Goes back to what is kept" onclick={() => draft.discard()}>Discard</button>
        </p>
      {:else}
        <Changes
          before={saved}
          after={tried ?? saved}
          {unit}
          whole={trial.whole}
          {amount}
          keep={() => draft.keep()}
          discard={() => draft.discard()}
        />
      {/if}
    {/if}
    {#if !examples.open}<Proposals {proposals} {dropped} {silence} {nameAt} {take} show={showAt} />{/if}
    {#if chosenPeak && !examples.open}
      <PeakPanel
        batch={batch.id}
        revision={batch.revision}
        injection={injection?.id ?? ""}
        channel={channel.id}
        peak={chosenPeak}
        {unit}
        touches={touches(chosenPeak)}
        part={partPeak}
        split={splitPeak}
        merge={mergeLeft}
        remove={removePeak}
        anchor={() => anchor(pointer ?? chosenPeak.start_min)}
      />
    {/if}
    <TimeRules
      bind:this={rules}
      rules={draft.settings.time_rules ?? []}
      trace={trace.data}
      from={view.from}
      to={view.to}
      change={(time_rules) => draft.tune({ time_rules })}
    />
    {#if injection}<Edits {batch} {injection} />{/if}
    <Notices {batch} {result} station="peaks" />
  </Side>
  <Foot
    hints={[
      ["J|K", "run order"],
      ["[|]", "peak"],
      ["drag", "zoom"],
      ["wheel", "time"],
      ["N", "name"],
      ["S", "split"],
      ["M", "merge left"],
      ["A", "anchor"],
      ["T", "time rule"],
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
</style>
