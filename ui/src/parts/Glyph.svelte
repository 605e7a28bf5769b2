<script lang="ts" module>
  /** The place of a standard on the six-step stair: how many steps are filled. */
  export function stairSteps(level: number | null, levels: number[]): number {
    if (level === null || levels.length === 0) return 1;
    return Math.max(1, Math.round(((levels.indexOf(level) + 1) / levels.length) * 6));
  }
</script>

<script lang="ts">
  import type { Injection } from "../api/client";
  let { role, steps = 1, inline = false }: { role: Injection["role"]; steps?: number; inline?: boolean } = $props();
</script>

{#snippet shape()}
  {#if role === "blank"}
    <circle r="3.6" fill="none" stroke="currentColor" stroke-width="1.3" />
  {:else if role === "standard"}
    {#each [0, 1, 2, 3, 4, 5] as i (i)}
      <rect
        x={-6.2 + i * 2.1}
        y={4 - (1.4 + i * 1.28)}
        width="1.55"
        height={1.4 + i * 1.28}
        fill="currentColor"
        opacity={i < steps ? 1 : 0.26}
      />
    {/each}
  {:else if role === "check"}
    <path d="M0 -4.6L4.6 0L0 4.6L-4.6 0Z" fill="none" stroke="currentColor" stroke-width="1.3" /><circle r="1.2" fill="currentColor" />
  {:else if role === "sample"}
    <path d="M-4.2 3.6C-5 -2 -.6 -5 4.6 -4.4C5 .8 1.8 4.6 -4.2 3.6Z" fill="currentColor" />
  {:else if role === "suitability"}
    <path d="M-4.4 3.6L0 -4.4L4.4 3.6" fill="none" stroke="currentColor" stroke-width="1.3" />
  {:else}
    <path d="M-3.4 0H3.4" stroke="currentColor" stroke-width="1.3" stroke-dasharray="1.6 1.6" />
  {/if}
{/snippet}

{#if inline}
  {@render shape()}
{:else}
  <svg class="gl" width="14" height="12" viewBox="-7 -6 14 12" role="img" aria-label={role || "no role"}>{@render shape()}</svg>
{/if}

<style>
  .gl {
    display: inline-block;
    vertical-align: -1px;
    color: var(--ink-2);
    flex: none;
  }
</style>
