<script lang="ts">
  // Opened to the air: what cools, the pressure, what was done and by whom, and what it takes until it measures again.
  import type { BenchPost, BenchReading } from "../api/client";
  import { bench, clock, lasting } from "./bench.svelte";
  import Graph, { type Line } from "./Graph.svelte";

  let { post, vented }: { post: BenchPost; vented: NonNullable<NonNullable<BenchPost["state"]>["vented"]> } = $props();
  const stand = $derived(post.state!);
  const coolEnough = 100;
  const classes = ["", "second", "third", "fourth"];
  const warm = $derived(stand.readings.filter((r) => r.unit === "°C" && r.name !== "Oven"));
  const pressure = $derived(stand.readings.find((r) => r.unit === "mPa"));
  const now = $derived(Math.max(0, ...stand.readings.flatMap((r) => r.mins.slice(-1))));
  const door = $derived(vented.ahead.at(-1));
  const to = $derived(Math.max(10, now * 1.1, now + Math.min(90, door?.mins ?? 0) + 4));
  const high = $derived(Math.max(150, ...warm.flatMap((r) => r.values)) * 1.08);
  const lines = $derived<Line[]>([
    { mins: [0, to], values: [coolEnough, coolEnough], class: "limit" },
    ...warm.flatMap((r, i) => [
      { mins: r.will_mins, values: r.will_values, class: "will" },
      { mins: r.mins, values: r.values, class: classes[i % 4]! },
    ]),
  ]);
  const last = (r: BenchReading) => r.values.at(-1);
  /** From a high vacuum to air is ten decades: the pressure is drawn by its logarithm. */
  const decades = $derived<Line[]>(
    pressure ? [{ mins: pressure.mins, values: pressure.values.map((v) => Math.log10(v)), class: "second" }] : [],
  );
  const inPascal = (mPa: number) =>
    mPa < 1e3 ? `${mPa.toFixed(1)} mPa` : mPa < 1e6 ? `${(mPa / 1e3).toPrecision(3)} Pa` : `${(mPa / 1e6).toPrecision(3)} kPa`;
</script>

<div class="title">
  <h1>
    {stand.phase === "open" ? "Open" : "Venting"} <em>for {vented.for}</em>
    <span class="note">{post.name} · {vented.by} · begun {clock(vented.done[0]?.at)}, now {clock(stand.at)}</span>
  </h1>
  <span class="mut"
    >{#if stand.phase === "open"}<b class="ink">The door may be opened</b>{:else if door?.at}<b class="ink">{lasting(door.mins * 60)}</b>
      until the door may be opened, {clock(door.at)}{:else}waits for you{/if}</span
  >
</div>
<div class="picture">
  <Graph {lines} low={0} {high} {to} unit="°C" {now} height="100%" label="Temperatures while {post.name} is vented">
    {#snippet over(x, y)}
      <text class="soft" x={x(to)} y={y(coolEnough) - 5} text-anchor="end">below {coolEnough} °C air may come in</text>
      {#each warm as r, i (r.name)}{@const v = last(r)}{#if v !== undefined}<circle cx={x(now)} cy={y(v)} r="2.6" /><text
            class="name c{i}"
            x={x(now) + 6}
            y={y(v) - 5 + i * 2}>{r.name.toLowerCase()} {v.toFixed(0)} °C</text
          >{/if}{/each}
      {#if stand.phase === "venting"}<text class="soft" x={x(now) + 6} y="16">now, {clock(stand.at)}</text>{/if}
    {/snippet}
  </Graph>
  {#if pressure}<figure>
      <figcaption>
        <span class="cau">pressure in the detector</span> <span class="note">{inPascal(last(pressure) ?? 0)} now; 100 kPa is air</span>
      </figcaption>
      <Graph
        lines={decades}
        low={0}
        high={8.2}
        {to}
        unit=""
        says={(v) => (v === 0 ? "1 mPa" : "air")}
        height="64px"
        axis={false}
        {now}
        label="Pressure while {post.name} is vented"
      />
    </figure>{/if}
</div>
<div class="tables">
  <section aria-label="What is done, and by whom">
    <h2>
      What is done, and by whom <span class="note"
        >{#if vented.back}<button class="lnk" title="No air is in yet" onclick={() => bench.act(post.id, { kind: "back" })}
            >Go back to rest</button
          > until the pump slows{/if}</span
      >
    </h2>
    <table>
      <thead><tr><th class="l">At</th><th class="l">What</th><th class="l">By</th></tr></thead>
      <tbody>
        {#each vented.done as d, k (k)}<tr><td class="l">{clock(d.at)}</td><td class="l">{d.says}</td><td class="l">{d.by}</td></tr>{/each}
        {#each vented.ahead as a (a.says)}<tr class="mut"
            ><td class="l">{a.at ? clock(a.at) : "–"}</td><td class="l">{a.says}</td><td class="l">{a.by}, waits</td></tr
          >{/each}
      </tbody>
    </table>
  </section>
  <section aria-label="When it comes back">
    <h2>When it comes back <span class="note">about {lasting(vented.return.reduce((s, r) => s + r.mins * 60, 0))}, then the tune</span></h2>
    <table>
      <thead><tr><th class="l">Step</th><th>asked</th><th>takes</th><th class="l">by</th></tr></thead>
      <tbody>
        {#each vented.return as r (r.says)}<tr
            ><td class="l">{r.says}</td><td>{r.asked}</td><td>{r.mins ? lasting(r.mins * 60) : "–"}</td><td class="l">{r.by}</td></tr
          >{/each}
      </tbody>
    </table>
    <p class="note">Curves of earlier batches stay. Measure a check before you take them up again.</p>
  </section>
</div>

<style>
  .picture {
    flex: 1 1 300px;
    min-height: 200px;
    display: grid;
    grid-template-rows: minmax(110px, 1fr) auto;
  }
  figure {
    border-top: 1px solid var(--mist-1);
    padding-top: 4px;
  }
  .tables {
    flex: 0 1 270px;
    min-height: 120px;
    display: grid;
    grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
    gap: 24px;
    overflow: auto;
  }
  .ink {
    color: var(--ink);
  }
  .name {
    font-size: 11.5px;
    font-weight: 600;
    fill: var(--ink);
  }
  @container main (max-width: 760px) {
    .tables {
      grid-template-columns: 1fr;
    }
  }
</style>
