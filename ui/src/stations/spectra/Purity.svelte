<script lang="ts">
  // One compound, or more? The angle of each spectrum across the peak to that of its apex, against what noise alone would give.
  import type { PeakPurity } from "../../api/client";
  import { label, ticks } from "../../plot/frame";

  let { found }: { found: PeakPurity | undefined } = $props();
  let wide = $state(280);
  const tall = 150;
  const left = 34;
  const list = $derived(found?.scans ?? []);
  const from = $derived(Math.min(...list.map((s) => s.at_min)));
  const to = $derived(Math.max(...list.map((s) => s.at_min)));
  const top = $derived(Math.max(0.5, ...list.map((s) => Math.max(s.angle_degrees, Math.min(s.limit_degrees, 12)))) * 1.1);
  const x = (m: number) => left + ((m - from) / (to - from || 1)) * (wide - left - 8);
  const y = (v: number) => tall - 20 - (Math.min(v, top) / top) * (tall - 30);
  /** The limit has a gap at the apex, whose own spectra are what the others are held against. */
  const limit = $derived(
    list
      .map(
        (s, k) =>
          `${k && s.at_min < found!.apex_min === list[k - 1]!.at_min < found!.apex_min ? "L" : "M"}${x(s.at_min).toFixed(1)} ${y(s.limit_degrees).toFixed(1)}`,
      )
      .join(""),
  );
  const up = $derived(ticks(0, top, 3));
  const across = $derived(ticks(from, to, 3));
</script>

<section aria-label="One compound?">
  <h2>One compound? <span class="r">{found && list.length ? `${list.length} spectra` : ""}</span></h2>
  {#if !found}<p class="note">Choose a peak.</p>
  {:else}
    <p class="says" class:att={found.impure}>{found.says}</p>
    {#if list.length}
      <div bind:clientWidth={wide}>
        <svg width={wide} height={tall} role="img" aria-label="Angle across the peak, in degrees">
          {#if found.impure}<rect
              x={x(found.from_min)}
              width={Math.max(2, x(found.to_min) - x(found.from_min))}
              y="4"
              height={tall - 24}
              class="over"
            />{/if}
          {#each up.at as v (v)}<text class="tl" x={left - 6} y={y(v) + 4} text-anchor="end">{v}°</text>{/each}
          <path d="M{left} {y(0)}H{wide - 8}" class="axis" />
          <path d={limit} class="limit" />
          {#each list as s (s.at_min)}<circle
              cx={x(s.at_min)}
              cy={y(s.angle_degrees)}
              r="2.6"
              class:out={s.angle_degrees > s.limit_degrees}
            />{/each}
          {#each across.at as v (v)}<text class="tl" x={x(v)} y={tall - 4} text-anchor="middle">{label(v, across.decimals)}</text>{/each}
          <path d="M{x(found.apex_min)} 4V{tall - 20}" class="apex" />
        </svg>
      </div>
      <p class="note">Ochre: what noise alone exceeds in one of fifty peaks. Dashed: the apex.</p>
    {/if}
  {/if}
</section>

<style>
  .says {
    font: 15px/21px var(--f-read);
    margin-bottom: 6px;
  }
  svg {
    display: block;
  }
  circle {
    fill: var(--ink-2);
  }
  circle.out {
    fill: none;
    stroke: var(--kaki);
    stroke-width: 1.5;
  }
  .over {
    fill: var(--row-kaki);
  }
  .limit {
    fill: none;
    stroke: var(--ochre-text);
    stroke-width: 1.4;
  }
  .axis {
    stroke: var(--mist-3);
  }
  .apex {
    stroke: var(--mist-3);
    stroke-dasharray: 3 3;
  }
</style>
