<script lang="ts">
  // Quantities along the run, the batches of the study, time or another quantity: one axis, a chart each, limits with their source.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Compound, TrendChart, TrendPoint } from "../../api/client";
  import { ask } from "../../state/ask";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { ruleWords, trends } from "./trends.svelte";

  let { batch, compound }: { batch: Batch; compound: Compound | undefined } = $props();
  const register = createQuery(() => ask.quantities(batch.id, batch.revision));
  const numbers = $derived((register.data ?? []).filter((q) => !["text", "moment"].includes(q.kind) && q.lives !== "batch"));
  const kept = $derived(trends.kept);
  const query = createQuery(() => ask.trends(batch.id, batch.revision, trends.asked(compound?.id ?? "")));
  const got = $derived(query.data);
  const charts = $derived(got?.charts ?? []);
  const points = $derived(charts[0]?.points ?? []);
  let wide = $state(800);
  const left = 64;
  const right = 150;
  const tall = $derived(charts.length > 3 ? 96 : 128);
  const ends = $derived.by(() => {
    const all = charts.flatMap((c) => c.points.map((p) => p.x));
    const low = Math.min(...all);
    const high = Math.max(...all);
    const room = kept.along === "batches" ? 0.5 : (high - low || 1) * 0.02;
    return [low - room, high + room] as const;
  });
  const x = (v: number) => left + ((v - ends[0]) / (ends[1] - ends[0])) * (wide - left - right);
  function scale(c: TrendChart) {
    const all = [...c.points.map((p) => p.value), ...[c.low, c.high].filter((v): v is number => v !== null)];
    const low = Math.min(...all);
    const high = Math.max(...all);
    const room = (high - low || Math.abs(high) || 1) * 0.1;
    const to = (v: number) => tall - 8 - ((v - low + room) / (high - low + 2 * room)) * (tall - 16);
    const back = (y: number) => ((tall - 8 - y) / (tall - 16)) * (high - low + 2 * room) + low - room;
    return { to, back };
  }
  const short = (v: number) => Number(v.toPrecision(4)).toString();
  /** Where one batch ends and the next begins; only along batches. */
  const seams = $derived(
    kept.along === "batches"
      ? points.flatMap((p, k) => (k === 0 || points[k - 1]!.batch_id !== p.batch_id ? [{ x: p.x - 0.5, name: p.batch, here: p.here }] : []))
      : [],
  );
  /** Points of one series are joined, but not over a gap from batch to batch. */
  const runs = (c: TrendChart) => {
    const list: TrendPoint[][] = [];
    for (const p of c.points) {
      const last = list.at(-1)?.at(-1);
      if (last && last.batch_id === p.batch_id) list.at(-1)!.push(p);
      else list.push([p]);
    }
    return list;
  };
  /** So many points are drawn as one line of dots; those that want the eye stay signs of their own. */
  const dense = (c: TrendChart) => c.points.length > 1200;
  const classOf = (p: TrendPoint) => (p.breaks.length > 0 ? "run" : p.here ? "here" : "plain");
  const dots = (c: TrendChart, y: (v: number) => number, which: string) =>
    c.points
      .filter((p) => classOf(p) === which)
      .map((p) => `M${x(p.x).toFixed(1)} ${y(p.value).toFixed(1)}h0`)
      .join("");
  function pickNear(event: MouseEvent, c: TrendChart, y: (v: number) => number) {
    const box = (event.currentTarget as Element).getBoundingClientRect();
    const far = (p: TrendPoint) => Math.hypot(x(p.x) - (event.clientX - box.left), y(p.value) - (event.clientY - box.top));
    const near = c.points.reduce((a, b) => (far(b) < far(a) ? b : a), c.points[0]!);
    if (far(near) < 12) pick(near.injection_id);
  }
  const ordered = $derived(kept.along === "run" || kept.along === "batches");
  function pick(id: string) {
    trends.picked = id;
  }
  $effect(() => {
    trends.charts = charts;
    trends.points = charts.flatMap((c) =>
      c.points.filter((p) => p.injection_id === trends.picked).map((point) => ({ words: c.quantity.words, point })),
    );
  });
  function step(by: number) {
    const k = points.findIndex((p) => p.injection_id === trends.picked);
    const next = points[k < 0 ? (by > 0 ? 0 : points.length - 1) : Math.max(0, Math.min(points.length - 1, k + by))];
    if (next) pick(next.injection_id);
  }
  function open() {
    const p = points.find((o) => o.injection_id === trends.picked);
    if (p) place.go({ batch: p.batch_id, station: "peaks", query: { i: p.injection_id } });
  }
  /** With Shift a drag over a chart sets its limits from where it begins to where it ends. */
  let dragged = $state.raw<{ id: string; from: number; to: number }>();
  function drag(event: PointerEvent, c: TrendChart, value: (y: number) => number) {
    if (!event.shiftKey) return;
    event.preventDefault();
    const box = (event.currentTarget as Element).getBoundingClientRect();
    const at = (e: PointerEvent) => value(e.clientY - box.top);
    const from = at(event);
    const moved = (e: PointerEvent) => (dragged = { id: c.quantity.id, from, to: at(e) });
    const done = () => {
      removeEventListener("pointermove", moved);
      removeEventListener("pointerup", done);
      const set = dragged;
      dragged = undefined;
      if (!set) return;
      const short = (v: number) => Number(v.toPrecision(4));
      void trends.limit(
        batch.id,
        c.quantity.id,
        compound?.name ?? "",
        short(Math.min(set.from, set.to)),
        short(Math.max(set.from, set.to)),
      );
    };
    addEventListener("pointermove", moved);
    addEventListener("pointerup", done);
  }
  /** What was changed, with its words as far as they find room before the next ones. */
  const marks = $derived.by(() => {
    let free = -Infinity;
    return (got?.marks ?? []).map((m) => {
      const at = x(m.x) + 4;
      const words = m.says.length > 28 ? `${m.says.slice(0, 27)}…` : m.says;
      const room = at >= free;
      if (room) free = at + words.length * 6.2;
      return { ...m, words: room ? words : "" };
    });
  });
  const style = $derived(
    `/api/batches/${batch.id}/trends.svg?${new URLSearchParams({ ...trends.asked(compound?.id ?? ""), style: kept.style, open: "1" }).toString()}`,
  );
  let adding = $state<HTMLSelectElement>();
  const days = (v: number) => new Date(v * 86_400_000).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "2-digit" });
  $effect(() =>
    keys({ "]": () => step(1), "[": () => step(-1), Enter: open, a: () => adding?.focus(), Escape: () => (trends.figure = false) }),
  );
</script>

<div class="ask">
  <span class="mut">of</span>
  <select
    class="field"
    aria-label="Of which injections"
    title="Which injections are looked at"
    value={kept.of}
    onchange={(e) => trends.set({ of: e.currentTarget.value })}
  >
    {#each [["check", "checks"], ["standard", "standards"], ["sample", "samples"], ["suitability", "suitability"], ["all", "all injections"]] as [v, w] (v)}<option
        value={v}>{w}</option
      >{/each}
  </select>
  <span class="mut">in</span> <b>{compound?.name ?? "no compound"}</b>
  <span class="mut">along</span>
  <select
    class="field"
    aria-label="Along"
    title="What they are set against"
    value={kept.along}
    onchange={(e) => trends.set({ along: e.currentTarget.value })}
  >
    <option value="run">this run</option><option value="batches">all batches of the study</option><option value="time"
      >time of acquisition</option
    >
    {#each numbers as q (q.id)}<option value={q.id}>{q.unit ? `${q.words}, ${q.unit}` : q.words}</option>{/each}
  </select>
  <select
    class="field"
    bind:this={adding}
    aria-label="Add a chart"
    title="Adds a quantity (A)"
    onchange={(e) => {
      const id = e.currentTarget.value;
      if (id && !kept.quantities.includes(id) && kept.quantities.length < 8) trends.set({ quantities: [...kept.quantities, id] });
      e.currentTarget.value = "";
    }}
  >
    <option value="">add a chart …</option>
    {#each numbers.filter((q) => !kept.quantities.includes(q.id)) as q (q.id)}<option value={q.id}
        >{q.unit ? `${q.words}, ${q.unit}` : q.words}</option
      >{/each}
  </select>
</div>
{#if trends.trouble}<p class="att said-so">{trends.trouble}</p>{/if}
{#if trends.figure && got}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex (it is scrolled by the keyboard) -->
  <div class="desk" role="region" aria-label="The figure" tabindex="0">
    <p class="note">
      At its true size on paper. {compound?.name ?? ""} in the {kept.of === "all" ? "injections" : `${kept.of}s`}, {charts[0]?.points
        .length ?? 0}
      injections. Dashed: limits. Filled: this batch.
    </p>
    <img src={style} alt="The charts as they are printed" />
  </div>
{:else if query.isError}<div class="empty">{query.error.message}</div>
{:else if !got}<div class="empty">Reading the batches of the study …</div>
{:else if charts.every((c) => c.points.length === 0)}<div class="empty">
    No {kept.of === "all" ? "injection" : kept.of} here has a value. Choose others, or another compound.
  </div>
{:else}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex (it is scrolled by the keyboard) -->
  <div class="roll" role="region" aria-label="Trends" tabindex="0">
    <div class="charts" bind:clientWidth={wide}>
      {#each charts as c (c.quantity.id)}
        {@const { to: y, back } = scale(c)}
        <div class="chart">
          <p>
            <span><b>{c.quantity.words}</b>{c.quantity.unit ? `, ${c.quantity.unit}` : ""}</span>
            {#if c.gone}<span class="note">{c.gone} without a value</span>{/if}
            {#if c.line && !ordered}<span class="note num"
                >slope {short(c.line.slope)} ± {short(c.line.slope_95_half)} a {got.unit || "unit"}, R² {c.line.r2.toFixed(3)}, {c.line.n} points</span
              >{/if}
            <button
              class="lnk"
              title="Takes this chart away"
              aria-label="Take {c.quantity.words} away"
              onclick={() => trends.set({ quantities: kept.quantities.filter((q) => q !== c.quantity.id) })}>×</button
            >
          </p>
          <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions (the keys [ and ] walk the points, the side column has fields for limits) -->
          <svg
            width={wide}
            height={tall}
            role="img"
            aria-label="{c.quantity.words} along {got.words}"
            onpointerdown={(e) => drag(e, c, back)}
            onclick={(e) => dense(c) && pickNear(e, c, y)}
          >
            {#each marks as m, k (k)}<line x1={x(m.x)} x2={x(m.x)} y1="0" y2={tall} class="mark"
                ><title>{m.says}{m.by ? `, marked by ${m.by}` : ""}</title></line
              >{#if c === charts[0]}<text x={x(m.x) + 4} y="11" class="said">{m.words}</text>{/if}{/each}
            {#if dragged?.id === c.quantity.id}<rect
                x={left}
                width={wide - left - right}
                y={Math.min(y(dragged.from), y(dragged.to))}
                height={Math.abs(y(dragged.from) - y(dragged.to))}
                class="setting"
              />{/if}
            {#each seams as s, k (k)}
              {#if s.here}<rect x={x(s.x)} y="0" width={x(seams[k + 1]?.x ?? ends[1]) - x(s.x)} height={tall} class="band" />{/if}
              <line x1={x(s.x)} x2={x(s.x)} y1="0" y2={tall} class="seam" />{/each}
            {#each [["high", c.high], ["centre", c.centre], ["low", c.low]] as [what, v] (what)}{#if typeof v === "number"}
                <line x1={left} x2={wide - right} y1={y(v)} y2={y(v)} class={what === "centre" ? "centre" : "limit"} />
                <text x={left - 6} y={y(v) + 4} text-anchor="end">{short(v)}</text>{/if}{/each}
            {#if c.source}<text x={wide - right + 8} y="14" class="source"
                ><title>limits {c.source}</title>{c.source.length > 24 ? `${c.source.slice(0, 23)}…` : c.source}</text
              >{/if}
            {#if ordered}{#each runs(c) as run, k (k)}<polyline
                  points={run.map((p) => `${x(p.x)},${y(p.value)}`).join(" ")}
                  class="join"
                />{/each}
            {:else if c.line}<line
                x1={x(ends[0])}
                x2={x(ends[1])}
                y1={y(c.line.intercept + c.line.slope * ends[0])}
                y2={y(c.line.intercept + c.line.slope * ends[1])}
                class="fit"
              />{/if}
            {#if dense(c)}
              {#each ["plain", "run", "here"] as which (which)}<path class="dots {which}" d={dots(c, y, which)} />{/each}
            {/if}
            {#each dense(c) ? c.points.filter((p) => p.injection_id === trends.picked || p.breaks.includes("beyond")) : c.points as p (p.injection_id)}
              <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions (the keys [ and ] do the same) -->
              {#if p.breaks.includes("beyond")}<path
                  d="M{x(p.x) - 4} {y(p.value) - 4}l8 8m0 -8l-8 8"
                  class="out"
                  onclick={() => pick(p.injection_id)}><title>{p.name}: {p.shown}</title></path
                >{:else}<circle
                  cx={x(p.x)}
                  cy={y(p.value)}
                  r={p.injection_id === trends.picked ? 5 : 3.2}
                  class:here={p.here}
                  class:run={p.breaks.length > 0}
                  class:picked={p.injection_id === trends.picked}
                  onclick={() => pick(p.injection_id)}
                  ><title>{p.name}: {p.shown}{p.breaks.length ? `, ${p.breaks.map((b) => ruleWords[b]).join(", ")}` : ""}</title></circle
                >{/if}
            {/each}
          </svg>
        </div>
      {/each}
      <svg width={wide} height="22" aria-hidden="true" class="axis">
        {#if seams.length}{#each seams as s, k (k)}{@const room = x(seams[k + 1]?.x ?? ends[1]) - x(s.x)}{#if room > 30}<text
                x={x(s.x) + 4}
                y="14">{s.name.length * 6.5 > room ? `${s.name.slice(0, Math.max(1, Math.floor(room / 7)))}…` : s.name}</text
              >{/if}{/each}
        {:else}{#each [0.02, 0.25, 0.5, 0.75, 0.96] as f (f)}{@const v = ends[0] + f * (ends[1] - ends[0])}<text
              x={x(v)}
              y="14"
              text-anchor="middle">{kept.along === "time" ? days(v) : kept.along === "run" ? Math.round(v) : short(v)}</text
            >{/each}{/if}
        <text x={wide - right + 8} y="14">{got.words}{got.unit && kept.along !== "time" ? `, ${got.unit}` : ""}</text>
      </svg>
    </div>
  </div>
{/if}

<style>
  .ask {
    display: flex;
    gap: 8px;
    align-items: baseline;
    padding: 2px 16px 8px;
    font-size: 12.5px;
  }
  .ask .field {
    width: auto;
    max-width: 200px;
  }
  .roll {
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 0 16px;
  }
  .chart {
    border-bottom: 1px solid var(--mist-1);
    margin-bottom: 6px;
  }
  .chart p {
    display: flex;
    gap: 10px;
    align-items: baseline;
    font-size: 12.5px;
  }
  .chart p .lnk {
    margin-left: auto;
  }
  svg {
    display: block;
  }
  text {
    font-size: 11.5px;
    fill: var(--ink-3);
  }
  .source {
    fill: var(--ochre-text);
  }
  .seam {
    stroke: var(--mist-2);
    stroke-dasharray: 1 3;
  }
  .band {
    fill: var(--row-kaki);
    opacity: 0.55;
  }
  .desk {
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 12px 16px;
    background: var(--paper-3, var(--mist-1));
  }
  .desk img {
    background: #fff;
    box-shadow: 0 0 0 1px var(--mist-2);
  }
  .desk .note {
    margin-bottom: 8px;
  }
  .said-so {
    padding: 0 16px 6px;
  }
  .mark {
    stroke: var(--moss);
    stroke-width: 1.2;
    stroke-dasharray: 2 2;
  }
  .said {
    fill: var(--moss);
  }
  .setting {
    fill: var(--ochre-text);
    opacity: 0.18;
  }
  .limit {
    stroke: var(--ochre-text);
    stroke-dasharray: 5 3;
  }
  .centre {
    stroke: var(--mist-2);
  }
  .join {
    fill: none;
    stroke: var(--mist-3);
    stroke-width: 1;
  }
  .fit {
    stroke: var(--ai);
    stroke-width: 1.2;
  }
  .dots {
    fill: none;
    stroke-width: 3.4;
    stroke-linecap: round;
    stroke: var(--ink-3);
  }
  .dots.here {
    stroke: var(--ai);
  }
  .dots.run {
    stroke: var(--ochre-text);
  }
  circle {
    fill: var(--paper);
    stroke: var(--ai);
    stroke-width: 1.3;
    cursor: pointer;
  }
  circle.here {
    fill: var(--ai);
  }
  circle.run {
    stroke: var(--ochre-text);
  }
  circle.picked {
    stroke: var(--kaki);
    stroke-width: 2;
  }
  .out {
    stroke: var(--kaki);
    stroke-width: 1.6;
    fill: none;
    cursor: pointer;
  }
</style>
