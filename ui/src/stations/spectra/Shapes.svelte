<script lang="ts">
  // The spectra at the apex, the front and the tail of a peak, each to its own largest.
  import type { PeakPurity, SpectrumHit } from "../../api/client";
  import { fixed } from "../../look/number";
  import { ticks } from "../../plot/frame";

  let { found, entry }: { found: PeakPurity; /** Of a library, to be looked at against it. */ entry: SpectrumHit | undefined } = $props();
  let wide = $state(280);
  const tall = 140;
  const low = $derived(found.axis[0] ?? 0);
  const high = $derived(found.axis.at(-1) ?? 1);
  const x = (v: number) => 14 + ((v - low) / (high - low || 1)) * (wide - 28);
  const path = (values: number[]) => {
    const most = Math.max(...values, 1e-9);
    return values
      .map((v, k) => `${k ? "L" : "M"}${x(found.axis[k]!).toFixed(1)} ${(tall - 20 - Math.max(-0.05, v / most) * (tall - 30)).toFixed(1)}`)
      .join("");
  };
  const points = (list: number[][]) => {
    const within = list.filter((p) => p[0]! >= low && p[0]! <= high);
    const most = Math.max(...within.map((p) => p[1]!), 1e-9);
    return within
      .map((p, k) => `${k ? "L" : "M"}${x(p[0]!).toFixed(1)} ${(tall - 20 - Math.max(-0.05, p[1]! / most) * (tall - 30)).toFixed(1)}`)
      .join("");
  };
  const best = $derived(found.rest_like[0]);
  const remains = $derived(
    `After as much of the apex is taken off as can be there. ${
      best
        ? `${best.forward >= 95 ? "It is most like" : "Nothing in the libraries is like it; nearest is"} ${best.name}?, ${fixed(best.forward, 1)}.`
        : ""
    }`,
  );
  const scale = $derived(ticks(low, high, 5));
</script>

<section aria-label="Its spectrum">
  <h2>Its spectrum <span class="r">each to its largest</span></h2>
  <div bind:clientWidth={wide}>
    <svg width={wide} height={tall} role="img" aria-label="Spectra at apex, front and tail">
      {#if entry && entry.kind === "wavelength"}<path d={points(entry.peaks)} class="entry" />{/if}
      <path d={path(found.front)} class="front" />
      <path d={path(found.tail)} class="tail" />
      <path d={path(found.apex)} class="apex" />
      <path d="M6 {tall - 20}H{wide - 6}" class="axis" />
      {#each scale.at as v (v)}<text class="tl" x={x(v)} y={tall - 5} text-anchor="middle">{v}</text>{/each}
    </svg>
  </div>
  <p class="note">
    <b>apex</b> in ink, <span class="f">front</span> and <span class="t">tail</span> at half height; nm{#if entry?.kind === "wavelength"}; <span
        class="e">dashed</span
      >
      {entry.name} of {entry.library}{/if}
  </p>
</section>
{#if found.rest.length}
  <section aria-label="What remains">
    <h2>What remains <span class="r">{fixed(found.rest_percent, 1)} % of the signal there</span></h2>
    <svg width={wide} height={tall} role="img" aria-label="What remains when the apex is taken off">
      {#if best}<path d={points(best.peaks)} class="entry" />{/if}
      <path d={path(found.rest)} class="tail" />
      <path d="M6 {tall - 20}H{wide - 6}" class="axis" />
      {#each scale.at as v (v)}<text class="tl" x={x(v)} y={tall - 5} text-anchor="middle">{v}</text>{/each}
    </svg>
    <p class="note">{remains}</p>
  </section>
{/if}

<style>
  svg {
    display: block;
  }
  path {
    fill: none;
  }
  .apex {
    stroke: var(--ink);
    stroke-width: 1.6;
  }
  .front {
    stroke: var(--ai);
    stroke-width: 1.2;
  }
  .tail {
    stroke: var(--kaki);
    stroke-width: 1.2;
  }
  .entry {
    stroke: var(--moss);
    stroke-dasharray: 4 3;
    stroke-width: 1.2;
  }
  .e {
    color: var(--moss);
  }
  .axis {
    stroke: var(--mist-3);
  }
  .f {
    color: var(--ai);
  }
  .t {
    color: var(--kaki-text);
  }
</style>
