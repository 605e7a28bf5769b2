<script lang="ts">
  // A signed batch: by whom and when, in a line that every station has, with the way to unlock it.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../api/client";
  import { ask } from "../state/ask";
  import { place } from "../state/place.svelte";
  import { when } from "../stations/review/words";
  import Seal from "./Seal.svelte";

  let { batch }: { batch: Batch } = $props();
  const query = createQuery(() => ask.review(batch.id, batch.revision));
  const standing = $derived(query.data?.signatures.filter((s) => s.locks && !s.gone) ?? []);
</script>

<div class="lock" role="status">
  <Seal filled />
  <span
    >Signed{#each standing as s, k (k)}{k > 0 ? "; " : " by "}{s.name}, {s.meaning}, {when(s.at)}{/each}. Nothing in it changes.</span
  >
  {#if place.station !== "review"}<button class="lnk" title="Where it can be unlocked" onclick={() => place.go({ station: "review" })}
      >Signatures</button
    >{/if}
</div>

<style>
  .lock {
    grid-row: 4;
    display: flex;
    align-items: center;
    gap: 9px;
    min-height: 27px;
    padding: 1px 16px;
    border-bottom: 1px solid var(--mist-1);
    font-size: 12.5px;
    color: var(--ink-2);
  }
</style>
