<script lang="ts" generics="T extends string">
  import { SegmentedControl } from "@skeletonlabs/skeleton-svelte";

  let { label, options, value, choose }: { label: string; options: [value: T, word: string][]; value: T; choose: (value: T) => void } =
    $props();
</script>

<SegmentedControl {value} onValueChange={(d) => d.value !== null && d.value !== value && choose(d.value as T)} class="choice">
  <SegmentedControl.Label class="sr-only">{label}</SegmentedControl.Label>
  <SegmentedControl.Control class="choice-row">
    {#each options as [v, word] (v)}
      <SegmentedControl.Item value={v} class="choice-item" title={`${label}: ${word}`}>
        <SegmentedControl.ItemText>{word}</SegmentedControl.ItemText>
        <SegmentedControl.ItemHiddenInput />
      </SegmentedControl.Item>
    {/each}
  </SegmentedControl.Control>
</SegmentedControl>

<style>
  :global(.sr-only) {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
    white-space: nowrap;
  }
  :global(.choice-row) {
    display: inline-flex;
    font-size: 12.5px;
    line-height: 1.4;
  }
  :global(.choice-item) {
    padding: 2px 9px 3px;
    color: var(--ink-2);
    border-bottom: 1px solid var(--mist-2);
    cursor: pointer;
    white-space: nowrap;
  }
  :global(.choice-item[data-state="checked"]) {
    color: var(--ink);
    font-weight: 600;
    border-bottom: 2px solid var(--ink);
    padding-bottom: 2px;
  }
  :global(.choice-item:has(input:focus-visible)) {
    outline: 2px solid var(--ai);
    outline-offset: 1px;
  }
</style>
