<script lang="ts">
  // The run of a batch, small: its injections one after the other.
  import { createQuery } from "@tanstack/svelte-query";
  import { ask } from "../../state/ask";
  import type { Listed } from "./shelf";

  let {
    batch,
    attention,
    toCome,
  }: {
    batch: Listed;
    /** Something in it wants eyes. */ attention: boolean;
    /** Injections that an instrument has yet to run. */ toCome: number;
  } = $props();
  const query = createQuery(() => ask.ridges(batch.id, batch.injections, "shelf"));
  const width = 190;
  const height = 30;
  const path = $derived.by(() => {
    const list = query.data ?? [];
    const top = Math.max(1e-12, ...list.flatMap((r) => r.heights));
    const each = width / Math.max(1, list.length + toCome);
    return list
      .map((r, k) => {
        const few = Math.max(1, Math.round(r.heights.length / Math.max(3, each * 1.5)));
        const points: string[] = [];
        for (let i = 0; i < r.heights.length; i += few) {
          const y = Math.sqrt(Math.max(0, Math.max(...r.heights.slice(i, i + few))) / top);
          points.push(`${(k * each + (i / r.heights.length) * each).toFixed(1)} ${(height - 2 - y * (height - 4)).toFixed(1)}`);
        }
        return `M${(k * each).toFixed(1)} ${height - 2}L${points.join("L")}L${((k + 1) * each).toFixed(1)} ${height - 2}`;
      })
      .join("");
  });
  const share = $derived(path ? (query.data?.length ?? 0) / Math.max(1, (query.data?.length ?? 0) + toCome) : 0);
</script>

<svg {width} {height} viewBox="0 0 {width} {height}" aria-hidden="true">
  {#if path}<path d={path} />{/if}
  {#if !path || toCome > 0}<path class="none" d="M{share * width} {height - 2}H{width}" />{/if}
  {#if attention}<path class="att" d="M0 {height - 0.8}H34" />{/if}
</svg>

<style>
  svg {
    display: block;
  }
  path {
    fill: var(--mist-3);
    stroke: var(--ink-3);
    stroke-width: 0.6;
  }
  .none {
    fill: none;
    stroke-dasharray: 1 3;
  }
  .att {
    stroke: var(--kaki);
    stroke-width: 2;
  }
</style>
