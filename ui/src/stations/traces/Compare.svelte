<script lang="ts">
  // Several injections compared: overlaid on one baseline, or offset one above the other with time kept readable.
  import { createQueries } from "@tanstack/svelte-query";
  import type { Injection, Trace } from "../../api/client";
  import { count, fixed, significant } from "../../look/number";
  import Choice from "../../parts/Choice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Ruler from "../../parts/Ruler.svelte";
  import Axes from "../../plot/Axes.svelte";
  import { frame } from "../../plot/frame";
  import Lanes from "../../plot/Lanes.svelte";
  import { lanes } from "../../plot/lanes.svelte";
  import ChannelChoice from "../../parts/ChannelChoice.svelte";
  import LanesToggle from "../../plot/LanesToggle.svelte";
  import Lines, { type Line } from "../../plot/Lines.svelte";
  import Minimap from "../../plot/Minimap.svelte";
  import { extremes, indexOf } from "../../plot/thin";
  import { pxIn, ZoomDrag } from "../../plot/zoomdrag.svelte";
  import { topLabels } from "./topLabels";
  import { Window } from "../../plot/window.svelte";
  import { ask } from "../../state/ask";
  import { replicate, levelsOf } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import type { StationProps } from "../props";
  import { modeOf, modeWords, nextMode, setMode, treated, treatmentOf } from "./modes";
  import ShownList from "./ShownList.svelte";
  import Views from "./Views.svelte";
  import Treated from "./Treated.svelte";

  let { channel, batch, index }: StationProps = $props();
  const most = 20;

  /** Without a choice: a standard of the middle level behind, and the first of each sample. */
  const proposed = $derived.by(() => {
    const all = batch.injections.filter((i) => !i.typed);
    const standards = all.filter((i) => i.role === "standard");
    const middle = standards[Math.floor(standards.length / 2)];
    const seen = new Set<string>();
    const samples = all.filter((i) => i.role === "sample" && !seen.has(i.name) && seen.add(i.name));
    const list = [...(middle ? [middle] : []), ...samples.slice(0, 8)];
    return (list.length ? list : all.slice(0, 6)).map((i) => i.id);
  });
  const ids = $derived(
    place.query.show === undefined ? proposed : place.query.show.split(",").filter((id) => batch.injections.some((i) => i.id === id)),
  );
  const shown = $derived(ids.map((id) => batch.injections.find((i) => i.id === id)!));
  const mode = $derived(modeOf());
  let held = $state(false); // as measured, while the key is down
  const treatment = $derived(treatmentOf(batch, ids[0] ?? ""));
  const plainly = $derived(held || !treated(treatment));
  const unit = $derived(!plainly && treatment.heights ? (treatment.heights === "area" ? "% of area/min" : "%") : (shown[0]?.unit ?? ""));
  const queries = createQueries(() => ({
    queries: ids.map((id) =>
      plainly ? ask.trace(batch.id, id, channel.id) : ask.treated(batch.id, batch.revision, id, channel.id, treatment),
    ),
  }));
  const raw = $derived(
    shown
      .map((inj, k) => ({ inj, trace: queries[k]?.data as Trace | undefined }))
      .filter((t): t is { inj: Injection; trace: Trace } => !!t.trace),
  );
  const ready = $derived(raw);
  const failed = $derived(queries.find((q) => q.isError));

  const setShown = (list: string[]) => place.go({ query: { show: list.length ? list.join(",") : "none" } }, false);
  const add = (id: string) => id && !ids.includes(id) && ids.length < most && setShown([...ids, id]);
  const remove = (id: string) => setShown(ids.filter((i) => i !== id));
  const current = $derived(batch.injections[index]?.id);

  const view = new Window();
  $effect(() => {
    const t = ready[0]?.trace;
    if (t) view.run(t.min[0]!, t.min.at(-1)!);
  });

  let width = $state(900);
  let height = $state(500);
  let depth = $state(0.5); // of the whole step
  let pointer = $state<number | null>(null);
  const levels = $derived(levelsOf(batch));

  /** Lowest and highest value of a trace in the shown stretch. */
  function extent(t: Trace): [number, number] {
    if (t.value.length === 0) return [0, 1];
    const [low, high] = extremes(t.value, indexOf(t, view.from), indexOf(t, view.to));
    return [t.value[low]!, t.value[high]!];
  }
  /** In the mirror the chosen trace stands upright, the others hang below it. */
  const upright = $derived(
    Math.max(
      0,
      ready.findIndex((t) => t.inj.id === current),
    ),
  );
  const mirrored = (k: number) => mode === "mirror" && k !== upright;
  const extents = $derived(ready.map((t) => extent(t.trace)));
  const tallest = $derived(Math.max(1e-9, ...extents.map(([a, b]) => b - a)));
  const wholeStep = $derived(tallest / Math.max(2, ready.length / 3));
  const step = $derived(mode === "offset" ? wholeStep * depth : 0);
  const order = $derived(mode === "offset" ? ready.map((_, k) => ready.length - 1 - k) : ready.map(() => 0)); // far ones stand highest
  const range = $derived.by<[number, number]>(() => {
    let low = Infinity;
    let high = -Infinity;
    ready.forEach((_, k) => {
      const [a, b] = extents[k]!;
      const lift = mode === "offset" ? order[k]! * step - a : 0;
      low = Math.min(low, a + lift, mirrored(k) ? -b : Infinity);
      high = Math.max(high, mirrored(k) ? -a : b + lift);
    });
    if (!(high > low)) return [0, 1];
    const span = (high - low) / view.lift;
    return [low - 0.03 * span, low + span * 1.03];
  });
  const f = $derived(frame(width, height, { l: 50, r: mode === "offset" ? 148 : 12, t: 40, b: 24 }, [view.from, view.to], range));

  // Traces of one sampling share their times; others are read at the times of the first.
  const x = $derived(ready[0]?.trace.min ?? new Float64Array());
  function along(t: Trace): Float64Array {
    const same = t.min.length === x.length && t.min[0] === x[0] && t.min.at(-1) === x[x.length - 1];
    if (same) return t.value;
    const y = new Float64Array(x.length);
    for (let i = 0, j = 0; i < x.length; i++) {
      while (j < t.min.length - 1 && t.min[j + 1]! <= x[i]!) j++;
      y[i] = t.value[j]!;
    }
    return y;
  }
  const plain = $derived(ready.map((t) => along(t.trace)));
  const dashes: (number[] | undefined)[] = [undefined, [5, 3], [2, 2], [8, 3, 2, 3], [1.5, 3]];
  const overlayColours = ["--ink", "--ai", "--moss", "--ochre", "--ink-3"];
  const lines = $derived<Line[]>(
    ready.map((t, k) => {
      const own = t.inj.id === current;
      if (mode !== "offset")
        return {
          y: mirrored(k) ? Float64Array.from(plain[k]!, (v) => -v) : plain[k]!,
          colour: own ? "--kaki" : overlayColours[k % 5]!,
          width: own ? 1.7 : 1.25,
          dash: own ? undefined : dashes[k % 5],
        };
      const base = order[k]! * step;
      const lift = base - extents[k]![0];
      const colour = own
        ? "--kaki"
        : t.inj.role === "standard"
          ? "--ai"
          : k < ready.length / 3
            ? "--ink-3"
            : k < (2 * ready.length) / 3
              ? "--ink-2"
              : "--ink";
      return { y: plain[k]!, lift, zero: base, colour, width: own ? 1.7 : 1.1, fill: "--paper-ridge" };
    }),
  );
  /** How a trace is told apart in the overlay. */
  const lineOf = (k: number) => ({ colour: overlayColours[k % 5]!, dash: dashes[k % 5]?.join(" ") });
  const names = $derived(topLabels(batch.version.method.compounds, f));
  const valueAt = (t: Trace, min: number) => t.value[indexOf(t, min)]!;

  const drag = new ZoomDrag();
  function wheel(e: WheelEvent) {
    e.preventDefault();
    const factor = Math.exp((e.deltaY || e.deltaX) * 0.0015);
    if (e.shiftKey) view.lift = Math.max(1, view.lift / factor);
    else view.zoom(f.ix(pxIn(e, e.currentTarget as Element)), factor);
  }
  const title = (i: Injection) => `${i.name} ${replicate(batch, batch.injections.indexOf(i))}`.trim();
  $effect(() =>
    keys({
      ...view.keys(),
      o: nextMode,
      b: () => (held = true),
      h: () => current && remove(current),
      a: () => current && add(current),
    }),
  );
</script>

<svelte:window onkeyup={(e) => e.key.toLowerCase() === "b" && (held = false)} />

<div class="stage">
  <main class="main">
    <div class="head">
      <h1>Traces</h1>
      <span class="note"
        >{shown.length} of {count(batch.injections.length, "injection")}{mode === "overlay"
          ? ", one scale"
          : mode === "mirror"
            ? ", the chosen one upright, the others below"
            : ", back to front"}</span
      >
      <span class="tools">
        <ChannelChoice {batch} {channel} />
        <LanesToggle {batch} />
        <button onclick={() => view.all()} title="Shows the whole run (0)"><kbd>0</kbd> whole run</button>
        <Choice label="How traces stand" options={modeWords} value={mode} choose={setMode} />
      </span>
    </div>
    <Treated {batch} {treatment} {held} />
    {#if batch.injections.length === 0}
      <div class="empty">
        No injections yet. <button class="btn" title="Goes to the Batch station" onclick={() => place.go({ station: "batch" })}
          >Add files</button
        >
      </div>
    {:else if shown.length === 0}
      <div class="empty">No trace is shown. Add one at the right, or press A for the chosen injection.</div>
    {:else}
      <div class="plot" bind:clientWidth={width} bind:clientHeight={height}>
        <svg class="layer" {width} {height} aria-hidden="true">
          {#each names as l (l.c.id)}
            <path d="M{l.px} {f.y1 - 8}V{f.y0}" stroke={l.c.role === "target" ? "var(--mist-2)" : "var(--moss)"} stroke-dasharray="1 4" />
            {#if l.row >= 0}<text
                class="tl"
                style={l.c.role === "target" ? "" : "fill:var(--moss)"}
                x={l.px}
                y={f.y1 - 14 - 13 * l.row}
                text-anchor="middle">{l.c.name}</text
              >{/if}
          {/each}
        </svg>
        {#if ready.length > 0}<Lines {f} {x} {lines} />{/if}
        <svg
          class="layer"
          {width}
          {height}
          role="img"
          aria-label="{shown.length} traces, {mode}"
          onpointerdown={(e) => drag.press(e, () => f, view)}
          onwheel={wheel}
          ondblclick={() => view.all()}
          onpointermove={(e) => {
            const at = pxIn(e, e.currentTarget);
            pointer = at >= f.x0 && at <= f.x1 ? f.ix(at) : null;
          }}
          onpointerleave={() => (pointer = null)}
        >
          <rect {width} {height} fill="transparent" />
          {#if mode !== "offset"}<Axes {f} unitY={unit} />{:else}
            <Axes {f} up={0} />
            <path
              d="M{f.x0 - 14} {f.sy(range[0] + (range[1] - range[0]) * 0.8)}V{f.sy(
                range[0] + (range[1] - range[0]) * 0.8 - Math.pow(10, Math.floor(Math.log10(tallest / 2))),
              )}m-3 0h6"
              stroke="var(--ink-3)"
              fill="none"
            />
            <text class="tl" x={f.x0 - 20} y={f.sy(range[0] + (range[1] - range[0]) * 0.8) + 12} text-anchor="end"
              >{Math.pow(10, Math.floor(Math.log10(tallest / 2)))}</text
            >
            <text class="tl" x={f.x0 - 20} y={f.sy(range[0] + (range[1] - range[0]) * 0.8) + 25} text-anchor="end">{unit}</text>
          {/if}
          {#each ready as t, k (t.inj.id)}
            {#if mode === "offset"}
              <text
                class="lb"
                class:own={t.inj.id === current}
                x={f.x1 + 8}
                y={f.sy(order[k]! * step) - 2}
                style={t.inj.role === "standard" ? "fill:var(--ai)" : ""}
                >{t.inj.name.length > 21 ? `${t.inj.name.slice(0, 20)}…` : t.inj.name}</text
              >
            {/if}
          {/each}
          {#if pointer !== null}
            <path d="M{f.sx(pointer)} {f.y1 - 6}V{f.y0}" stroke="var(--ink)" stroke-width=".9" />
            <text class="lb" x={f.sx(pointer) + 6} y={f.y0 - 6}>{fixed(pointer, 2)} min</text>
          {/if}
          {#if drag.stretch}<rect
              x={drag.stretch[0]}
              y={f.y1 - 8}
              width={drag.stretch[1] - drag.stretch[0]}
              height={f.y0 - f.y1 + 8}
              fill="var(--row-ai)"
            />{/if}
        </svg>
        {#if failed}<div class="empty wait">
            A trace cannot be read: {failed.error?.message}
          </div>{:else if ready.length < shown.length}<div class="note busy">
            Reading {shown.length - ready.length} traces …
          </div>{/if}
      </div>
      {#if lanes.shown && current}
        <Lanes
          batch={batch.id}
          injection={current}
          traces={String(batch.injections[index]?.trace)}
          {view}
          {pointer}
          right={mode === "offset" ? 148 : 12}
          left={f.x0}
        />
      {/if}
      <Minimap trace={ready.find((t) => t.inj.id === current)?.trace ?? ready.at(-1)?.trace} {view} right={mode === "offset" ? 148 : 12} />
    {/if}
  </main>
  <Side>
    <ShownList
      {batch}
      {shown}
      {current}
      {levels}
      {title}
      {most}
      full={ids.length >= most}
      at={pointer}
      note={mode === "offset" ? "back to front" : "at the pointer"}
      line={mode !== "offset" ? lineOf : undefined}
      value={(k) => {
        const t = queries[k]?.data as Trace | undefined;
        return pointer !== null && t ? fixed(valueAt(t, pointer), 1) : "";
      }}
      {setShown}
      {proposed}
      {add}
      {remove}
    />
    {#if mode === "offset" && shown.length > 0}
      <section aria-label="Depth">
        <h2>Depth</h2>
        <Ruler
          label="Step between traces"
          {unit}
          value={step}
          saved={step}
          low={0.05 * wholeStep}
          high={2 * wholeStep}
          format={(v) => significant(v, 2)}
          change={(v) => (depth = Math.min(2, Math.max(0.05, v / wholeStep)))}
        />
      </section>
    {/if}
    <Views {batch} picture=".plot" />
  </Side>
  <Foot
    hints={[
      ["O", "way of looking"],
      ["J|K", "bring next forward"],
      ["A", "add"],
      ["H", "hide"],
      ["drag", "zoom"],
      ["wheel", "time"],
      ["Shift wheel", "signal"],
    ]}
  />
</div>

<style>
  .plot {
    position: relative;
    flex: 1;
    min-height: 0;
    overflow: hidden;
    touch-action: none;
  }
  .layer {
    position: absolute;
    inset: 0;
  }
  .wait {
    position: absolute;
    inset: 0;
  }
  .busy {
    position: absolute;
    left: 60px;
    top: 4px;
  }
  .lb.own {
    fill: var(--kaki-text);
    font-weight: 600;
  }
</style>
