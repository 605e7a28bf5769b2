<script lang="ts">
  // The run that is measured, or was measured last: its signal to now, the one before behind it, names as peaks end, and what went on meanwhile.
  import type { BenchPost, Live } from "../api/client";
  import { clock, left } from "./bench.svelte";
  import Graph, { type Line } from "./Graph.svelte";
  import { significant } from "../look/number";

  let { post, live }: { post: BenchPost; live: Live | undefined } = $props();
  const stand = $derived(post.state!);
  const trouble = $derived(stand.trouble && stand.trouble.row_id === live?.row_id ? stand.trouble : null);
  /** Trouble that came between two injections: nothing was measured in it. */
  const between = $derived(stand.phase === "stopped" && stand.trouble && !trouble ? stand.trouble : null);
  const next = $derived(stand.rows.find((r) => r.id === between?.row_id) ?? stand.rows.find((r) => r.state === "waits"));
  const running = $derived(stand.at_min !== null && live?.row_id !== "");
  const signal = $derived(live?.signal);
  const to = $derived(Math.max(live?.run_min ?? 1, live?.last_min ?? 0));
  // The solvent would hide everything: the scale follows what is looked for, and what is higher is cut.
  const top = $derived.by(() => {
    const named = (live?.compounds ?? []).filter((c) => c.passed).map((c) => c.height);
    const behind = live?.behind?.values ?? [];
    const from = Math.min(...(live?.compounds ?? []).map((c) => c.at_min), to) - 0.4;
    const inside = (signal?.values ?? []).filter((_, i) => (signal?.mins[i] ?? 0) > from);
    const past = behind.filter((_, i) => (live?.behind?.mins[i] ?? 0) > from);
    // What is usual stays in the picture where trouble has left nothing but noise.
    const before = (signal?.values ?? []).filter((_, i) => !trouble || (signal?.mins[i] ?? 0) < trouble.at_min).toSorted((a, b) => a - b);
    const usual = before[before.length >> 1] ?? 0;
    return Math.max(1e-6, 1.5 * usual, ...named, ...inside, ...past) * 1.12;
  });
  const low = $derived(Math.min(0, ...(signal?.values ?? [0])));
  const lines = $derived<Line[]>([
    ...(live?.behind ? [{ ...live.behind, class: "behind", close: true }] : []),
    ...(signal ? [{ ...signal, class: "" }] : []),
  ]);
  const begun = $derived(live?.begun ? new Date(live.begun).getTime() : 0);
  const at = (min: number) => clock(new Date(begun + min * 60_000).toISOString());
  /** Names that would lie on one another stay away: the higher one is kept. */
  const names = $derived.by(() => {
    const list = (live?.compounds ?? [])
      .map((c) => (trouble && c.at_min > trouble.at_min ? { ...c, passed: false } : c))
      .filter((c) => c.passed || trouble || running);
    const kept: typeof list = [];
    for (const c of [...list].sort((a, b) => Number(b.passed) - Number(a.passed) || b.height - a.height))
      if (kept.every((k) => Math.abs(k.at_min - c.at_min) > to * 0.055)) kept.push(c);
    return kept;
  });
  const conditions = $derived((live?.lanes ?? []).filter((l) => !/inlet|column/i.test(l.name)));
  const lane = $derived((trouble?.quantity ? live?.lanes.find((l) => l.name === trouble.quantity) : undefined) ?? conditions[0]);
  const other = $derived(conditions.find((l) => l !== lane));
  const span = (values: number[], and: number[] = []): [number, number] => {
    const lo = Math.min(...values, ...and);
    const hi = Math.max(...values, ...and);
    // What stands still is drawn still: its noise does not fill the lane.
    const room = Math.max((hi - lo) * 0.1, (0.05 * Math.abs(hi) - (hi - lo)) / 2, 1e-6);
    return [lo - room, hi + room];
  };
  /** The second lane on the scale of the first. */
  const scaled = $derived.by<Line[]>(() => {
    if (!lane || !other || other.values.length === 0) return [];
    const [a, b] = span(lane.values);
    const [c, d] = span(other.values);
    return [{ mins: other.mins, values: other.values.map((v) => a + ((v - c) / (d - c)) * (b - a)), class: "third" }];
  });
  const newest = $derived((live?.newest ?? []).map(([m = 0, v = 0]) => ({ m, v })));
  const highest = $derived(Math.max(1, ...newest.map((l) => l.v)));
  /** The scale under the spectrum: of masses always the same, of wavelengths as far as they go. */
  const low0 = $derived(live?.newest_along === "nm" ? (newest[0]?.m ?? 200) : 30);
  const wide = $derived(live?.newest_along === "nm" ? Math.max(1, (newest.at(-1)?.m ?? 400) - low0) : 280);
  /** Of masses the largest; of wavelengths where it is highest, besides at the short end. */
  const labelled = $derived(
    live?.newest_along === "nm"
      ? newest
          .filter(
            (l, k) =>
              k > 0 &&
              l.v > newest[k - 1]!.v &&
              l.v >= (newest[k + 1]?.v ?? Infinity) &&
              l.v - Math.min(...newest.slice(0, k).map((n) => n.v)) > highest / 8,
          )
          .slice(0, 3)
      : [...newest].sort((a, b) => b.v - a.v).slice(0, 6),
  );
</script>

{#if live && signal}
  <div class="title">
    <h1 class:att={trouble !== null || between !== null}>
      {#if between}{between.says} <em>before {next?.name ?? "the next"}</em>{:else if trouble}{trouble.says}
        <em>in {live.name}</em>{:else}{live.name}{/if}
      <span class="note"
        >{between
          ? `${clock(between.at, true)} on ${post.name}; below is ${live.name}, the run before`
          : trouble
            ? `injection ${live.number} of ${stand.rows.length}, at ${trouble.at_min.toFixed(2)} min`
            : `injection ${live.number} of ${stand.rows.length} on ${post.name} · ${(stand.at_min ?? live.last_min).toFixed(1)} of ${to.toFixed(1)} min`}</span
      >
    </h1>
    {#if trouble}<span
        >{#if stand.rows.find((r) => r.id === trouble.row_id)?.state !== "cut"}<b>Nothing is lost.</b>{/if}
        <span class="mut"
          >{trouble.recorded_min >= to - 0.01
            ? "recorded to its end, so the file is whole"
            : `recorded to ${trouble.recorded_min.toFixed(2)} min`}</span
        ></span
      >{/if}
    {#if !trouble && running}<span><b>{left(Math.max(0, to - (stand.at_min ?? 0)))}</b> <span class="mut">left of this one</span></span
      >{/if}
  </div>
  <Graph
    {lines}
    {low}
    high={top}
    {to}
    unit={signal.unit}
    height="100%"
    now={trouble ? trouble.at_min : running ? live.last_min : undefined}
    nowClass={trouble ? "att" : ""}
    label="{signal.name} of {live.name} to {live.last_min.toFixed(1)} min"
  >
    {#snippet over(x, y, foot)}
      {#if trouble}<rect class="gone" x={x(trouble.at_min)} y="4" width={Math.max(0, x(to) - x(trouble.at_min))} height={foot - 4} />
        <text
          class="moment"
          x={x(trouble.at_min) + (trouble.at_min > to * 0.6 ? -6 : 6)}
          y="16"
          text-anchor={trouble.at_min > to * 0.6 ? "end" : "start"}
          >{clock(trouble.at, true)}: {trouble.says.toLowerCase()}; not integrated from here</text
        >
      {:else if post.kind === "gcms" && signal.mins[0]}<rect
          class="delay"
          x={x(0)}
          y="4"
          width={x(signal.mins[0]) - x(0)}
          height={foot - 4}
        /><text class="soft" x={x(0) + 6} y="18">solvent delay, filament off</text>{/if}
      {#each names as c (c.name)}
        {@const up = c.passed ? Math.max(24, y(Math.min(top, c.height)) - 14) : foot - 34}
        <text class="name" class:soft={!c.passed} class:is={c.internal} x={x(c.at_min)} y={up} text-anchor="middle"
          >{c.internal ? "int. std" : c.name}</text
        >
        <text class="soft" x={x(c.at_min)} y={up + 12} text-anchor="middle"
          >{c.passed ? c.at_min.toFixed(2) : trouble ? "" : `at ${at(c.at_min)}`}</text
        >
      {/each}
      {#if live.behind}<text class="soft" x={x(to)} y={foot - 6} text-anchor="end">behind: {live.behind.name}</text>{/if}
      {#if !trouble && running}<text
          class="value"
          x={x(live.last_min) + (live.last_min > to * 0.85 ? -6 : 6)}
          y="14"
          text-anchor={live.last_min > to * 0.85 ? "end" : "start"}
          >{significant(signal.values.at(-1), 3)} {signal.unit}, {clock(stand.at)}</text
        >{/if}
    {/snippet}
  </Graph>
  <div class="under" class:two={live.newest.length > 0}>
    {#if live.newest.length > 0}<figure>
        <figcaption>
          <b>Newest spectrum</b>
          <span class="note"
            >{live.newest_at_min?.toFixed(2)} min{live.newest_along === "nm" ? `, ${low0} to ${low0 + wide} nm` : ", as it comes in"}</span
          >
        </figcaption>
        <svg viewBox="{low0} 0 {wide} 62" preserveAspectRatio="none" aria-label="Newest spectrum" role="img">
          {#if live.newest_along === "nm"}<path
              class="band"
              d="M{newest.map(({ m, v }) => `${m} ${60 - (Math.max(0, v) / highest) * 46}`).join('L')}"
            />
          {:else}{#each newest as { m, v } (m)}<path class="stick" d="M{m} 60V{60 - (v / highest) * 46}" />{/each}{/if}
        </svg>
        <div class="masses">
          {#each labelled as { m, v } (m)}<span style:left="{((m - low0) / wide) * 100}%" style:bottom="{(v / highest) * 74}%"
              >{m}{live.newest_along === "nm" ? " nm" : ""}</span
            >{/each}
        </div>
      </figure>{/if}
    {#if lane && lane.values.length > 1}
      {@const [lo, hi] = span(lane.values, trouble?.limit !== null && trouble?.limit !== undefined ? [trouble.limit] : [])}
      <figure>
        <figcaption>
          <span class="cau">{lane.name}, {lane.unit}</span>
          {#if other}<span class="ai">{other.name}, {other.unit}</span>{/if}
        </figcaption>
        <Graph
          lines={[
            ...scaled,
            { ...lane, class: "second" },
            ...(trouble?.limit !== null && trouble?.limit !== undefined
              ? [{ mins: [0, to], values: [trouble.limit, trouble.limit], class: "limit" }]
              : []),
          ]}
          low={lo}
          high={hi}
          {to}
          unit=""
          height="54px"
          axis={false}
          now={trouble ? trouble.at_min : undefined}
          nowClass="att"
          label="{lane.name} while it was measured"
        />
        <p class="note one">
          now: {(live.lanes ?? []).map((l) => `${l.name.toLowerCase()} ${significant(l.values.at(-1), 4)} ${l.unit}`).join(", ")}
        </p>
      </figure>{/if}
  </div>
{:else if stand.phase === "ready"}
  <div class="title"><h1>Ready <span class="note">for {stand.for} · everything is true; it waits for you</span></h1></div>
{:else}
  <div class="title"><h1>{stand.for || post.name} <span class="note">{stand.says}</span></h1></div>
{/if}

<style>
  .name {
    font-size: 12px;
    font-weight: 600;
    fill: var(--ink);
  }
  .name.is {
    fill: var(--moss);
  }
  .soft,
  .name.soft {
    font-size: 11.5px;
    font-weight: 400;
    fill: var(--ink-3);
  }
  .value {
    font-size: 12px;
    fill: var(--ink);
  }
  .moment {
    font-size: 12px;
    font-weight: 600;
    fill: var(--kaki-text);
  }
  .delay {
    fill: var(--w-mist-b);
    stroke: none;
  }
  .gone {
    fill: var(--w-kaki-b);
    stroke: none;
  }
  .under {
    display: grid;
    gap: 16px;
    min-height: 0;
    border-top: 1px solid var(--mist-1);
    padding-top: 4px;
  }
  .under.two {
    grid-template-columns: 1fr 1fr;
  }
  figure {
    position: relative;
    min-width: 0;
  }
  figcaption {
    display: flex;
    gap: 14px;
    font-size: 12px;
    line-height: 18px;
  }
  figure > svg {
    width: 100%;
    height: 62px;
    border-bottom: 1px solid var(--mist-3);
  }
  .band {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.2;
    vector-effect: non-scaling-stroke;
  }
  .stick {
    stroke: var(--ink);
    stroke-width: 1;
    vector-effect: non-scaling-stroke;
  }
  .masses {
    position: absolute;
    left: 0;
    right: 0;
    top: 18px;
    height: 62px;
    pointer-events: none;
  }
  .masses span {
    position: absolute;
    transform: translate(-50%, -2px);
    font-size: 11px;
    line-height: 12px;
    color: var(--ink-2);
  }
  .one {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .ai {
    color: var(--ai);
  }
</style>
