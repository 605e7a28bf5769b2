<script lang="ts">
  // Shows or hides the lanes, where the batch's files hold more than one signal.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../api/client";
  import { ask } from "../state/ask";
  import { lanes } from "./lanes.svelte";

  let { batch }: { batch: Batch } = $props();
  const signals = createQuery(() => ask.signals(batch.id, batch.revision));
</script>

{#if (signals.data?.length ?? 0) > 1}
  <label class="chk" title="The other signals of the chosen injection's file in lanes, each on its own scale"
    ><input type="checkbox" bind:checked={lanes.shown} />other signals</label
  >
{/if}
