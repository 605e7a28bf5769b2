<script lang="ts">
  // What was done by hand to this injection; each can be taken back, and all of it.
  import type { Batch, Injection } from "../../api/client";
  import { channelTitle } from "../../state/channel";
  import { desk } from "../../state/desk.svelte";
  import { describe } from "./words";

  let { batch, injection }: { batch: Batch; injection: Injection } = $props();
  const of = (id: string | undefined) => {
    const channel = batch.version.method.channels.find((c) => c.id === id);
    return channel ? `, ${channelTitle(batch, channel)}` : "";
  };
</script>

<section aria-label="Edits">
  <h2>
    Edits <span class="r">{injection.edits.length ? `${injection.edits.length} by hand, here` : "none here"}</span>
  </h2>
  {#each injection.edits as e, i (i)}
    <p class="edit">
      <span>{describe(e)}{of(e.channel)}</span><button class="lnk" onclick={() => desk.takeBack(injection.id, i)}>take back</button>
    </p>
  {/each}
  {#if injection.edits.length > 0}<button class="lnk" onclick={() => desk.takeBack(injection.id, -1)}>Lift all edits</button>
  {:else}<p class="note">
      Select a peak and drag a boundary under it. S splits at the pointer, M merges with the peak on the left, A anchors the baseline,
      Delete removes, Shift drag adds one.
    </p>{/if}
</section>

<style>
  .edit {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    font-size: 12.5px;
    line-height: 21px;
  }
  .edit .lnk {
    flex: none;
    height: 17px;
  }
</style>
