<script lang="ts">
  // Getting ready: what is reached against time, dotted where it will be, and the detector's signal before the first run.
  import type { BenchPost, BenchReading } from "../api/client";
  import { clock, lasting } from "./bench.svelte";
  import Graph, { type Line } from "./Graph.svelte";
  import { significant } from "../look/number";

  let { post }: { post: BenchPost } = $props();
  const stand = $derived(post.state!);
  const classes = ["", "second", "third", "fourth"];
  const warm = $derived(stand.readings.filter((r) => r.unit === "°C"));
  const other = $derived(stand.readings.filter((r) => r.unit !== "°C"));
  const now = $derived(Math.max(0, ...stand.readings.flatMap((r) => r.mins.slice(-1))));
  const to = $derived(
    Math.max(
      now * 1.15,
      6,
      ...stand.conditions.map((c) => now + (c.left_s ?? 0) / 60),
      ...warm.flatMap((r) => r.will_mins.slice(-1).map((m) => Math.min(m, now + 40))),
    ),
  );
  const high = $derived(Math.max(50, ...warm.flatMap((r) => [r.asked, ...r.values])) * 1.08);
  const lines = $derived<Line[]>(
    warm.flatMap((r, i) => [
      { mins: [0, to], values: [r.asked, r.asked], class: "asked" },
      { mins: r.will_mins, values: r.will_values, class: "will" },
      { mins: r.mins, values: r.values, class: classes[i % 4]! },
    ]),
  );
  const last = (r: BenchReading) => r.values.at(-1);
  const soon = $derived(stand.ready_at ? (new Date(stand.ready_at).getTime() - new Date(stand.at).getTime()) / 1000 : null);
  /** How long it takes until all is true that comes by itself. */
  const itself = $derived(Math.max(0, ...stand.conditions.filter((c) => c.standing === "coming").map((c) => c.left_s ?? 0)));
  /** How much of the width the words of an event take; those that would cross the moment stand behind theirs. */
  const wide = 0.2;
  /** What will be reached when, in rows above the axis where their words would touch. */
  const events = $derived.by(() => {
    const ends: number[] = [];
    return stand.conditions
      .filter((c) => c.standing === "coming" && (c.left_s ?? 0) >= 30)
      .map((c) => ({
        name: c.name.toLowerCase(),
        min: now + c.left_s! / 60,
        at: new Date(new Date(stand.at).getTime() + c.left_s! * 1000),
      }))
      .sort((a, b) => a.min - b.min)
      .map((e) => {
        const from = e.min - (e.min - now < wide * to ? 0 : wide * to);
        let row = ends.findIndex((end) => from > end);
        if (row < 0) row = ends.length;
        ends[row] = from + wide * to;
        return { ...e, row };
      });
  });
  const signal = $derived(other.at(-1));
  const bounds = $derived.by((): [number, number] => {
    const v = signal?.values ?? [0, 1];
    const lo = Math.min(...v);
    const hi = Math.max(...v);
    return [lo - 0.05 * (hi - lo) - 0.01, hi + 0.1 * (hi - lo) + 0.01];
  });
  /** Names at the right, pushed apart where they would touch. */
  const names = $derived.by(() => {
    let before = -Infinity;
    return warm
      .map((r, i) => ({ name: r.name, at: r.asked, i }))
      .sort((a, b) => a.at - b.at)
      .map((n) => {
        before = Math.max(n.at, before + high * 0.075);
        return { ...n, at: before };
      });
  });
</script>

<div class="title">
  <h1>
    Getting ready <em>for {stand.for}</em> <span class="note">{post.name} · {stand.rows.length} injections · now {clock(stand.at)}</span>
  </h1>
  <span class="mut"
    >{#if soon !== null}<b class="ink">about {lasting(soon)}</b>; first injection {clock(stand.ready_at)}{:else}waits for you{#if itself >= 30};
        the rest is there in <b class="ink">about {lasting(itself)}</b>{/if}{/if}</span
  >
</div>
<Graph {lines} low={0} {high} {to} unit="°C" {now} label="Temperatures while {post.name} gets ready">
  {#snippet over(x, y, floor)}
    {#each events as e (e.name)}
      {@const after = e.min - now < wide * to}
      <path class="event" d="M{x(e.min)} {floor}v{-6 - 13 * e.row}" />
      <text class="soft" x={x(e.min) + (after ? 4 : -4)} y={floor - 5 - 13 * e.row} text-anchor={after ? "start" : "end"}
        >{e.name}, {clock(e.at.toISOString())}</text
      >
    {/each}
    {#each names as n (n.name)}<text class="name c{n.i}" x={x(to)} y={y(n.at) - 4} text-anchor="end"
        >{n.name.toLowerCase()} {warm[n.i]?.asked}</text
      >{/each}
    {#each warm as r (r.name)}{@const v = last(r)}{#if v !== undefined}<circle cx={x(now)} cy={y(v)} r="2.6" />{/if}{/each}
    <text class="soft" x={x(now) + 6} y="16">now, {clock(stand.at)}</text>
  {/snippet}
</Graph>
{#if signal}
  <figure>
    <Graph
      lines={[{ mins: signal.mins, values: signal.values, class: "" }]}
      low={bounds[0]}
      high={bounds[1]}
      {to}
      unit={signal.unit}
      height="64px"
      axis={false}
      {now}
      label="{signal.name} while it gets ready"
    />
    <p class="note">
      {other.map((r) => `${r.name} ${significant(last(r), 3)} ${r.unit}`).join(" · ")}
    </p>
  </figure>
{/if}

<style>
  .ink {
    color: var(--ink);
  }
  .name {
    font-size: 12px;
    font-weight: 600;
    fill: var(--ink);
  }
  .event {
    stroke: var(--ink-3);
    fill: none;
  }
  figure {
    border-top: 1px solid var(--mist-1);
    padding-top: 4px;
  }
</style>
