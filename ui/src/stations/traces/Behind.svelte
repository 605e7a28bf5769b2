<script lang="ts">
  // Conditions behind the trace, each on a scale of its own at the right; at most three, since more cannot be read.
  import type { Trace } from "../../api/client";
  import { minus, ticks, type Frame } from "../../plot/frame";
  import { pathOf, scaleAround } from "../../plot/thin";

  let { f, list }: { f: Frame; list: { name: string; unit: string; low: number; high: number; trace: Trace | undefined }[] } = $props();
  const colours = ["var(--ochre)", "var(--ai)", "var(--moss)"];
  const dashes = [undefined, "7 3 2 3", "2 3"];
</script>

{#each list.slice(0, 3) as c, k (c.name)}
  {@const [least, most] = scaleAround(c.low, c.high)}
  {@const low = least - 0.15 * (most - least)}
  {@const high = most + 0.15 * (most - least)}
  {@const sy = (v: number) => f.y0 - ((v - low) / (high - low)) * (f.y0 - f.y1)}
  {@const t = ticks(low, high, 6)}
  {@const x = f.x1 + 10 + 48 * k}
  {#if c.trace}<path
      d={pathOf(c.trace, f, sy)}
      fill="none"
      stroke={colours[k]}
      stroke-width="1.2"
      stroke-dasharray={dashes[k]}
      opacity=".85"
    />{/if}
  <path d="M{x} {f.y1}V{f.y0}" stroke={colours[k]} stroke-dasharray={dashes[k]} />
  {#each t.at as v (v)}
    <path d="M{x} {sy(v)}h4" stroke={colours[k]} />
    <text class="tl" x={x + 7} y={sy(v) + 4} style="fill:{colours[k]}">{minus(v.toFixed(t.decimals))}</text>
  {/each}
  <text
    class="tl"
    x={k === 2 ? x + 36 : x - 2}
    text-anchor={k === 2 ? "end" : "start"}
    y={f.y1 - 20 - (k % 2) * 12}
    style="fill:{colours[k]}">{c.name.length > 10 ? `${c.name.slice(0, 9)}…` : c.name}</text
  >
  <text class="tl" x={x + 2} y={f.y1 - 6} style="fill:{colours[k]}">{c.unit}</text>
{/each}
