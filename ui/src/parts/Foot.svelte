<script lang="ts">
  import type { Snippet } from "svelte";
  let { hints, children }: { hints: [key: string, what: string][]; children?: Snippet } = $props();
</script>

<footer>
  <span class="hints"
    >{#each hints as [key, what] (key + what)}<span
        >{#each key.split("|") as k (k)}<kbd>{k}</kbd>{/each}
        {what}</span
      >{/each}</span
  >
  <span class="fr" aria-live="polite">{@render children?.()}</span>
</footer>

<style>
  footer {
    grid-area: 4 / 1 / 5 / -1;
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
  /* As many whole hints as fit; the others wrap out of sight. */
  .hints {
    flex: 1 1 0;
    display: flex;
    flex-wrap: wrap;
    gap: 0 16px;
    height: 23px;
    line-height: 23px;
    overflow: hidden;
  }
  .fr {
    max-width: 60%;
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
