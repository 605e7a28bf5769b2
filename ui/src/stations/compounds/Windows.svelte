<script lang="ts">
  // The windows of all compounds on the time axis of a chromatogram; that of the chosen one over its whole height.
  import type { Compound } from "../../api/client";
  import type { Frame } from "../../plot/frame";

  let { f, list, half, chosen }: { f: Frame; list: Compound[]; half: (c: Compound) => number; chosen: string | undefined } = $props();
</script>

{#each list as c (c.id)}
  {@const x0 = f.sx(c.expected_min - half(c))}
  {@const x1 = f.sx(c.expected_min + half(c))}
  {#if x1 > f.x0 && x0 < f.x1}
    <g style="color: var({c.id === chosen ? '--kaki' : c.role === 'target' ? '--ai' : '--moss'})" pointer-events="none">
      {#if c.id === chosen}<rect
          x={Math.max(f.x0, x0)}
          y={f.y1 - 30}
          width={Math.min(f.x1, x1) - Math.max(f.x0, x0)}
          height={f.y0 - f.y1 + 30}
          fill="currentColor"
          opacity=".06"
        />{/if}
      <path
        d="M{Math.max(f.x0, x0)} {f.y0 - 3.5}v-5M{Math.min(f.x1, x1)} {f.y0 - 3.5}v-5M{Math.max(f.x0, x0)} {f.y0 - 6}H{Math.min(f.x1, x1)}"
        stroke="currentColor"
        stroke-width="1.2"
        fill="none"
      />
      <path d="M{f.sx(c.expected_min)} {f.y0 - 9}v6" stroke="currentColor" stroke-width="1.2" />
    </g>
  {/if}
{/each}
