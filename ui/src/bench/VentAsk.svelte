<script lang="ts">
  // What a person asks of a mass detector at rest: to be opened to the air.
  import type { BenchPost } from "../api/client";
  import { bench } from "./bench.svelte";

  let { post }: { post: BenchPost } = $props();
  let ventFor = $state("");
</script>

{#if post.kind === "gcms" && post.state?.phase === "resting" && !post.state.vented}
  <section aria-label="Open it to the air">
    <h2>Open it to the air <span class="note">a person's act</span></h2>
    <p class="vent">
      <input
        class="field"
        aria-label="For what it is vented"
        title="For what it is vented"
        placeholder="for an oil change"
        bind:value={ventFor}
      />
      <button
        class="btn"
        disabled={!ventFor.trim()}
        title="Heaters off; air comes in below 100 °C, while somebody is there"
        onclick={() => bench.act(post.id, { kind: "vent", what: ventFor.trim().replace(/^for /, ""), choice: "pump_down" })}>Vent</button
      >
    </p>
  </section>
{/if}

<style>
  .vent {
    display: flex;
    gap: 10px;
    align-items: center;
    max-width: 420px;
  }
  .vent input {
    flex: 1;
    min-width: 0;
  }
</style>
