<script lang="ts">
  // Which channel of the method is looked at, where it has more than one.
  import type { Batch, Channel } from "../api/client";
  import { channelTitle } from "../state/channel";
  import { place } from "../state/place.svelte";

  let { batch, channel }: { batch: Batch; channel: Channel } = $props();
  const list = $derived(batch.version.method.channels);
</script>

{#if list.length > 1}
  <label class="chk"
    >channel
    <select
      class="field"
      value={channel.id}
      title="The channel that is looked at; each has settings, peaks and compounds of its own"
      onchange={(e) => place.go({ query: { channel: e.currentTarget.value, c: "" } }, false)}
    >
      {#each list as c (c.id)}<option value={c.id}>{channelTitle(batch, c)}</option>{/each}
    </select></label
  >
{/if}
