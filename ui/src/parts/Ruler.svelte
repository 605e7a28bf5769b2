<script lang="ts">
  // A slider on a ruler: the handle is a plumb-bob, the saved value a tick, and the bar between them what has changed.
  import { Slider } from "@skeletonlabs/skeleton-svelte";

  let {
    label,
    unit,
    value,
    saved,
    low,
    high,
    logarithmic = false,
    format,
    change,
  }: {
    label: string;
    unit: string;
    value: number;
    saved: number;
    low: number;
    high: number;
    logarithmic?: boolean;
    format: (v: number) => string;
    change: (v: number) => void;
  } = $props();

  const steps = 400;
  const toStep = (v: number) => {
    const f = logarithmic ? Math.log(Math.max(v, low) / low) / Math.log(high / low) : (v - low) / (high - low);
    return Math.round(Math.max(0, Math.min(1, f)) * steps);
  };
  const fromStep = (s: number) => (logarithmic ? low * Math.pow(high / low, s / steps) : low + ((high - low) * s) / steps);
  const changed = $derived(format(value) !== format(saved));
  const at = $derived(toStep(value) / steps);
  const was = $derived(toStep(saved) / steps);
  let typed = $state<string | null>(null);

  function commit() {
    const v = Number((typed ?? "").replace(",", ".").replace("−", "-"));
    if (typed !== null && Number.isFinite(v) && v >= 0) change(v);
    typed = null;
  }
</script>

<div class="row" class:changed>
  <span
    >{label}{#if changed}<span class="was">saved {format(saved)}</span>{/if}</span
  >
  <span class="v">
    <input
      aria-label="{label}, {unit}"
      title={`${label}, typed`}
      value={typed ?? format(value)}
      oninput={(e) => (typed = e.currentTarget.value)}
      onblur={commit}
      onkeydown={(e) => e.key === "Enter" && (commit(), e.currentTarget.blur())}
    /><small>{unit}</small>
  </span>
  <Slider
    class="ruler"
    min={0}
    max={steps}
    step={1}
    value={[toStep(value)]}
    onValueChange={(d) => change(fromStep(d.value[0] ?? 0))}
    aria-label={[label]}
  >
    <Slider.Control class="ruler-control">
      <Slider.Track class="ruler-track">
        <svg width="100%" height="17" viewBox="0 0 276 17" preserveAspectRatio="none" aria-hidden="true">
          <path d="M1 8.5H275" stroke="var(--mist-3)" />
          {#each { length: 11 } as _, i (i)}<path d="M{1 + i * 27.4} 8.5v{i % 5 ? 3 : 5}" stroke="var(--mist-3)" />{/each}
          {#if changed}
            <path d="M{1 + was * 274} 8.5H{1 + at * 274}" stroke="var(--kaki)" stroke-width="2.4" />
            <path d="M{1 + was * 274} 3.5v10" stroke="var(--ink-2)" stroke-width="1.3" />
          {/if}
        </svg>
      </Slider.Track>
      <Slider.Thumb index={0} class="ruler-thumb" title={`${label}: drag, or the arrow keys`}>
        <svg width="11" height="14" viewBox="0 0 11 14" aria-hidden="true"
          ><path d="M5.5 13.5L.9 7.3V1H10.1V7.3Z" fill={changed ? "var(--kaki)" : "var(--ink)"} /></svg
        >
        <Slider.HiddenInput />
      </Slider.Thumb>
    </Slider.Control>
  </Slider>
</div>

<style>
  .row {
    display: grid;
    grid-template-columns: 1fr 84px;
    align-items: baseline;
    padding: 4px 0 2px;
  }
  .was {
    font-size: 12px;
    color: var(--ink-3);
    margin-left: 6px;
  }
  .v {
    display: flex;
    align-items: baseline;
    justify-content: flex-end;
    border-bottom: 1px solid var(--mist-2);
    line-height: 20px;
  }
  .v input {
    width: 100%;
    min-width: 0;
    text-align: right;
    background: none;
    outline: none;
    padding: 0;
  }
  .v:has(input:focus) {
    outline: 2px solid var(--ai);
    outline-offset: 1px;
  }
  .v small {
    font-size: 12px;
    color: var(--ink-3);
    margin-left: 3px;
    white-space: nowrap;
  }
  .changed .v {
    border-bottom: 2px solid var(--kaki);
    line-height: 19px;
    font-weight: 500;
  }
  .row :global(.ruler) {
    grid-column: 1 / 3;
  }
  .row :global(.ruler-control) {
    position: relative;
    height: 18px;
  }
  .row :global(.ruler-track) {
    width: 100%;
    height: 17px;
    background: none;
    cursor: pointer;
  }
  .row :global(.ruler-thumb) {
    background: none;
    border: 0;
    box-shadow: none;
    width: 11px;
    height: 14px;
    top: 1px;
    outline-offset: 3px;
  }
</style>
