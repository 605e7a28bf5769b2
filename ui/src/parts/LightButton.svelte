<script lang="ts">
  // Paper or Night.
  import { light } from "../state/light.svelte";
</script>

<button
  class="light"
  title={light.night ? "Paper" : "Night"}
  aria-label={light.night ? "Change to Paper" : "Change to Night"}
  onclick={() => light.toggle()}
>
  <svg width="13" height="13" viewBox="0 0 13 13" fill="none" stroke="currentColor" stroke-width="1.3"
    ><circle cx="6.5" cy="6.5" r="5" /><path d="M6.5 1.5A5 5 0 0 1 6.5 11.5Z" fill="currentColor" /></svg
  >
</button>

<style>
  button {
    display: grid;
    place-items: center;
    width: 28px;
    height: 28px;
    color: var(--ink-2);
  }
</style>
