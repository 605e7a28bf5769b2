<script lang="ts">
  // The way to Find or do, from every page.
  import { finder } from "./finder.svelte";
</script>

<button
  class="find"
  aria-label="Find or do Ctrl K"
  title="Finds an injection, a compound, a batch, and what can be done (Ctrl K)"
  onclick={() => (finder.open = true)}
>
  <svg
    width="13"
    height="13"
    viewBox="0 0 13 13"
    fill="none"
    stroke="currentColor"
    stroke-width="1.2"
    stroke-linecap="round"
    aria-hidden="true"><circle cx="5.4" cy="5.4" r="3.9" /><path d="M8.4 8.4L12 12" /></svg
  >
  <span class="fw">Find or do <span class="k">Ctrl K</span></span>
</button>

<style>
  .find {
    display: flex;
    align-items: center;
    min-width: 28px;
    justify-content: center;
    gap: 7px;
    color: var(--ink-3);
    font-size: 12px;
    border-bottom: 1px solid var(--mist-2);
    height: 24px;
    padding-right: 2px;
  }
  .find .k {
    margin-left: 10px;
    font-size: 11px;
  }
</style>
