<script lang="ts">
  let { width = 30 }: { width?: number } = $props();
</script>

<svg {width} height={(width * 2) / 3} viewBox="0 0 30 20" aria-hidden="true">
  <path d="M0 17C5 17 6 8.6 9.6 8.6S14 15 18 15.4C21 15.6 22 12 24 12S27.4 17 30 17Z" fill="var(--mist-2)" opacity=".75" />
  <path
    d="M1 17.4C6.2 17.4 8.6 16.6 11 9.6C12.4 5.4 13 2.6 14.6 2.6S17 6 18.4 10.4C20 15.4 22.6 17.4 29 17.4"
    fill="none"
    stroke="var(--ink)"
    stroke-width="1.5"
    stroke-linecap="round"
  />
</svg>
