<script lang="ts">
  // One piece of evidence: the line is what is permitted, the dot what was found. Outside it is hollow, beyond the end of the line.
  import type { ScreenMark } from "../../api/client";
  import { kinds, said } from "./screening.svelte";

  let { mark, tells = true }: { mark: ScreenMark; /** Says on pointing what it means. */ tells?: boolean } = $props();
  const from = 7;
  const to = 17;
  const open = $derived(mark.high === null);
  const x = $derived.by(() => {
    if (mark.value === null) return 24;
    const low = mark.low ?? mark.value;
    const high = mark.high ?? low + 2 * Math.abs(mark.value - low || 1);
    const share = (mark.value - low) / (high - low || 1);
    return mark.inside
      ? from + Math.max(0.12, Math.min(0.88, open ? 0.5 : share)) * (to - from)
      : share < 0.5
        ? from - Math.min(4, 2.5 + 1.5 * Math.abs(share))
        : to + Math.min(6, 2.5 + share);
  });
</script>

<svg width="27" height="11" role="img" aria-label="{kinds[mark.kind]} {mark.inside ? 'inside' : 'outside'}">
  {#if tells}<title>{kinds[mark.kind]}{mark.of ? ` of ${mark.of}` : ""}: {said(mark)}</title>{/if}
  <path d="M{from} 5.5H{to}M{from} 2.5V8.5{open ? '' : `M${to} 2.5V8.5`}" class="line" />
  {#if mark.value !== null}<circle cx={x} cy="5.5" r="2.9" class:out={!mark.inside} />
  {:else}<path d="M{x - 2.5} 3L{x + 2.5} 8M{x + 2.5} 3L{x - 2.5} 8" class="none" />{/if}
</svg>

<style>
  svg {
    overflow: visible;
    flex: none;
  }
  .line {
    stroke: var(--mist-3);
    fill: none;
  }
  circle {
    fill: var(--ink);
  }
  circle.out {
    fill: var(--paper);
    stroke: var(--kaki);
    stroke-width: 1.5;
  }
  .none {
    stroke: var(--kaki);
    stroke-width: 1.4;
  }
</style>
