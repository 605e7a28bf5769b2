<script lang="ts">
  // The curve through the standards and where the sample lies on it.
  import type { WholeWay } from "../../../api/client";
  import { significant } from "../../../look/number";
  import Axes from "../../../plot/Axes.svelte";
  import { frame } from "../../../plot/frame";

  let { whole, unit }: { whole: WholeWay; unit: string } = $props();
  let width = $state(420);
  const height = 190;
  const curve = $derived(whole.curve);
  const proposed = $derived(whole.proposals.some((p) => p.key === "line"));
  const sample = $derived(whole.rows.find((r) => r.role === "sample" && r.area_s !== null));
  const reads = $derived(whole.concentration);
  const far = $derived(Math.max(1e-9, ...(curve?.points ?? []).map((p) => p.x), reads ?? 0));
  const high = $derived(Math.max(1e-9, ...(curve?.points ?? []).map((p) => p.response), reads === null ? 0 : (sample?.area_s ?? 0)));
  const f = $derived(frame(width, height, { l: 46, r: 14, t: 22, b: 26 }, [0, far * 1.08], [0, high * 1.08]));
  const line = $derived(
    (curve?.line ?? [])
      .filter((l) => l.x <= far * 1.06 && l.y >= 0)
      .map((l, i) => `${i ? "L" : "M"}${f.sx(l.x).toFixed(1)} ${f.sy(l.y).toFixed(1)}`)
      .join(""),
  );
</script>

<div bind:clientWidth={width}>
  {#if curve && curve.points.length > 0}
    <svg {width} {height} role="img" aria-label="Curve">
      <Axes {f} unitX={whole.unit} unitY={unit ? `${unit}·s` : ""} across={6} up={4} />
      <path d={line} fill="none" stroke="var(--ai)" stroke-width="1.4" stroke-dasharray={proposed ? "1.5 3" : ""} />
      {#each curve.points as p (p.injection_id)}<circle
          cx={f.sx(p.x)}
          cy={f.sy(p.response)}
          r="3.8"
          fill="var(--ai)"
          stroke="var(--paper)"
          stroke-width="1.3"><title>{p.level} {whole.unit}, {significant(p.response, 4)}</title></circle
        >{/each}
      {#if reads !== null && sample?.area_s}
        <path d="M{f.x0} {f.sy(sample.area_s)}H{f.sx(reads)}V{f.y0}" fill="none" stroke="var(--kaki)" stroke-width="1.3" />
        <circle cx={f.sx(reads)} cy={f.sy(sample.area_s)} r="4" fill="var(--paper)" stroke="var(--kaki)" stroke-width="1.6" />
        <text class="lb" style="fill:var(--kaki-text)" x={f.sx(reads) + 6} y={f.y0 - 8}>{significant(reads, 3)}</text>
      {/if}
    </svg>
  {:else}
    <p class="note">{curve?.problem || "A curve comes once standards have levels with a unit and the peak is known."}</p>
  {/if}
</div>
