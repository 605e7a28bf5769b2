<script lang="ts">
  // Two spectra mirrored on one axis: what was measured upwards, the entry of a library downwards; what the entry does not have is marked.
  import { ticks } from "../../plot/frame";

  let {
    peaks,
    entry = [],
    off = [],
    name,
    entryName = "",
    click,
  }: {
    peaks: number[][];
    entry?: number[][];
    /** The background that was taken off. */
    off?: number[][];
    name: string;
    entryName?: string;
    /** A line was clicked; aside is with Alt. */
    click: (mz: number, aside: boolean) => void;
  } = $props();
  let wide = $state(600);
  let tall = $state(200);
  const left = 40;
  const within = 0.4;
  /** What is too small to be seen does not stretch the axis. */
  const seen = $derived([...peaks.filter((p) => p[1]! >= 4), ...entry].map((p) => p[0]!));
  const low = $derived(Math.min(...seen, Infinity));
  const high = $derived(Math.max(...seen, -Infinity));
  const pad = $derived(Math.max(2, (high - low) * 0.03));
  const x = (m: number) => left + ((m - low + pad) / (high - low + 2 * pad || 1)) * (wide - left - 8);
  const middle = $derived(entry.length ? (tall - 20) / 2 + 8 : tall - 26);
  const up = $derived(middle - 30);
  const down = $derived(tall - 22 - middle - 14);
  const largest = $derived(Math.max(...entry.map((p) => p[1]!), 1));
  const strange = (m: number) => entry.length > 0 && !entry.some((p) => Math.abs(p[0]! - m) <= within);
  /** The largest lines bear their m/z, as far as they do not cover each other. */
  const named = (list: number[][], most: number) => {
    const taken: number[] = [];
    return list
      .toSorted((a, b) => b[1]! - a[1]!)
      .slice(0, 14)
      .filter((p) => {
        if (p[1]! < 0.04 * most || taken.some((t) => Math.abs(t - x(p[0]!)) < 25)) return false;
        taken.push(x(p[0]!));
        return true;
      });
  };
  const scale = $derived(ticks(low - pad, high + pad, 10));
  const mz = (v: number) => Number(v.toFixed(2)).toString();
</script>

<div class="mirror" bind:clientWidth={wide} bind:clientHeight={tall}>
  {#if peaks.length}
    <svg width={wide} height={tall} role="img" aria-label="Spectrum of {name}{entryName ? `, against ${entryName}` : ''}">
      {#each [0, 50, 100] as v (v)}<text class="tl" x={left - 8} y={middle - (v / 100) * up + 4} text-anchor="end">{v}</text>{/each}
      {#if entry.length}{#each [50, 100] as v (v)}<text class="tl" x={left - 8} y={middle + (v / 100) * down + 4} text-anchor="end"
            >{v}</text
          >{/each}{/if}
      <path d="M{left} {middle}H{wide - 8}" class="axis" />
      {#each off as p (p[0])}{#if p[1]! > 4 && p[0]! >= low - pad && p[0]! <= high + pad}<path
            d="M{x(p[0]!) + 2} {middle}V{middle - Math.min(1.05, p[1]! / 999) * up}"
            class="off"
          />{/if}{/each}
      {#each peaks.filter((q) => q[0]! >= low && q[0]! <= high) as p (p[0])}
        <path d="M{x(p[0]!)} {middle}V{middle - (p[1]! / 999) * up}" class="line" class:strange={strange(p[0]!)} />
        <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions (ions are typed at the side, too) -->
        <rect
          x={x(p[0]!) - 3}
          width="6"
          y={middle - (p[1]! / 999) * up - 6}
          height={(p[1]! / 999) * up + 8}
          class="hit"
          onclick={(e) => click(p[0]!, e.altKey)}
          ><title>m/z {mz(p[0]!)}, {(p[1]! / 9.99).toFixed(1)} %{strange(p[0]!) ? ", not in the entry" : ""}: adds its trace</title></rect
        >
      {/each}
      {#each entry as p (p[0])}<path d="M{x(p[0]!)} {middle}V{middle + (p[1]! / largest) * down}" class="entry" />{/each}
      {#each named(peaks, 999) as p (p[0])}<text
          class="tl"
          class:att={strange(p[0]!)}
          x={x(p[0]!)}
          y={middle - (p[1]! / 999) * up - 4}
          text-anchor="middle">{mz(p[0]!)}</text
        >{/each}
      {#each named(entry, largest) as p (p[0])}<text class="tl" x={x(p[0]!)} y={middle + (p[1]! / largest) * down + 12} text-anchor="middle"
          >{mz(p[0]!)}</text
        >{/each}
      {#each scale.at.filter((v) => x(v) < wide - 44) as v (v)}<text class="tl" x={x(v)} y={tall - 4} text-anchor="middle">{v}</text>{/each}
      <text class="tl" x={wide - 8} y={tall - 4} text-anchor="end">m/z</text>
      <text class="who" x={wide - 8} y="14" text-anchor="end">{name}</text>
      {#if entryName}<text class="who ai" x={wide - 8} y={tall - 24} text-anchor="end">{entryName}</text>{/if}
    </svg>
  {/if}
</div>

<style>
  .mirror {
    height: 100%;
    min-height: 150px;
  }
  svg {
    display: block;
  }
  .axis {
    stroke: var(--mist-3);
  }
  .line {
    stroke: var(--ink);
    stroke-width: 1.6;
  }
  .line.strange {
    stroke: var(--kaki);
  }
  .entry {
    stroke: var(--ai);
    stroke-width: 1.6;
  }
  .off {
    stroke: var(--mist-3);
    stroke-width: 1.4;
  }
  .hit {
    fill: transparent;
    cursor: pointer;
  }
  .who {
    font-size: 12.5px;
    font-weight: 500;
    fill: var(--ink);
  }
  .who.ai {
    fill: var(--ai);
  }
  .att {
    fill: var(--kaki) !important;
  }
</style>
