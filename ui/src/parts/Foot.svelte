<script lang="ts">
  import type { Snippet } from "svelte";
  let { hints, children }: { hints: [key: string, what: string][]; children?: Snippet } = $props();
</script>

<footer>
  {#each hints as [key, what] (key + what)}<span><kbd>{key}</kbd> {what}</span>{/each}
  <span class="fr" aria-live="polite">{@render children?.()}</span>
</footer>

<style>
  footer {
    grid-column: 1 / -1;
    height: 24px;
    border-top: 1px solid var(--mist-1);
    display: flex;
    align-items: center;
    gap: 16px;
    padding: 0 16px;
    font-size: 11px;
    color: var(--ink-3);
    white-space: nowrap;
    overflow: hidden;
  }
  kbd {
    margin-right: 2px;
  }
  .fr {
    margin-left: auto;
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
