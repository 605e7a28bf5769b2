<script lang="ts" module>
  export const marks = {
    above: '<path d="M1 2.2H11"/><path d="M2.4 9.6L6 5L9.6 9.6"/>',
    below: '<path d="M1 9.8H11"/><path d="M2.4 2.4L6 7L9.6 2.4"/>',
    none: '<path d="M1 9.4H3.2C4.2 9.4 4.4 4 6 4S7.8 9.4 8.8 9.4H11" stroke-dasharray="1.5 1.7"/>',
    drift: '<path d="M1 2.8L4.4 4.2L7.4 7.2L11 9.6"/><path d="M1 9.8H11" stroke-dasharray="1.3 1.6"/>',
    weight: '<path d="M6 1.8V10.2M2.6 10.2H9.4M1 4.2C2 2.6 10 2.6 11 4.2"/>',
    look: '<path d="M6 1.4L11 10.4H1Z"/><path d="M6 5V7.6"/><path d="M6 9v.4"/>',
  };
  export type MarkName = keyof typeof marks;
  const byKind: Record<string, MarkName> = {
    above_range: "above",
    below_loq: "below",
    below_lod: "below",
    not_found: "none",
    check_drift: "drift",
    check: "drift",
    no_sample_amount: "weight",
    doubtful: "look",
  };
  /** The shape of a flag or of a notice's kind. */
  export const markOf = (kind: string): MarkName => byKind[kind] ?? "look";
  export const flagWords: Record<string, string> = {
    above_range: "above range",
    below_loq: "below LOQ",
    below_lod: "not detected",
    not_found: "not found",
    check_drift: "check drift",
    no_sample_amount: "no weight",
    doubtful: "doubtful",
  };
</script>

<script lang="ts">
  let { name }: { name: MarkName } = $props();
</script>

<svg
  class="mark"
  width="12"
  height="12"
  viewBox="0 0 12 12"
  fill="none"
  stroke="currentColor"
  stroke-width="1.35"
  stroke-linecap="round"
  stroke-linejoin="round"
  aria-hidden="true"
>
  <!-- eslint-disable-next-line svelte/no-at-html-tags -- a constant of this file -->
  {@html marks[name]}
</svg>

<style>
  .mark {
    display: inline-block;
    vertical-align: -1px;
    flex: none;
  }
</style>
