<script lang="ts">
  // A square with a ridge: hollow while it waits for a signature, filled once it is signed. Always beside a word.
  let { filled = false }: { filled?: boolean } = $props();
</script>

<svg width="13" height="13" viewBox="0 0 13 13" aria-hidden="true">
  <rect x=".6" y=".6" width="11.8" height="11.8" fill={filled ? "currentColor" : "none"} stroke="currentColor" stroke-width="1.1" />
  <path
    d="M2.4 9.6C4.6 9.4 4.8 3 6.4 3S8.4 9.4 10.6 9.6"
    fill="none"
    stroke={filled ? "var(--paper)" : "currentColor"}
    stroke-width="1.1"
    stroke-linecap="round"
  />
</svg>

<style>
  svg {
    flex: none;
    color: var(--ink);
  }
</style>
