<script lang="ts">
  // The width and the noise that integration goes by: what was estimated over the batch is told apart from what the method sets.
  import type { Expected, Settings } from "../../api/client";
  import { missing, significant } from "../../look/number";

  let {
    settings,
    expected,
    unit,
    tune,
  }: {
    settings: Settings;
    /** What was estimated over the batch for this trace; undefined while it is not known. */
    expected: Expected | undefined;
    unit: string;
    tune: (change: Partial<Settings>) => void;
  } = $props();

  const widthSet = $derived(settings.width_min > 0);
  const noise = $derived(settings.noise ?? expected?.noise);
  const over = $derived(expected ? `estimated over ${expected.injections} injection${expected.injections === 1 ? "" : "s"}` : "");
  const widths = $derived.by(() => {
    const first = widthSet ? settings.width_min : expected?.width_min;
    const last = widthSet ? settings.end_width_min || settings.width_min : expected?.end_width_min;
    if (!first) return expected ? "no clear peaks; each trace by its length" : missing;
    return last && Math.abs(last / first - 1) > 0.05
      ? `${significant(first, 3)} to ${significant(last, 3)} min`
      : `${significant(first, 3)} min`;
  });
  const growth = $derived.by(() => {
    if (!noise) return "";
    const parts = [];
    if (noise.per_root_signal) parts.push(`${significant(noise.per_root_signal, 2)} × √signal`);
    if (noise.per_signal) parts.push(`${significant(100 * noise.per_signal, 2)} % of the signal`);
    return parts.length ? `, growing by ${parts.join(" and ")}` : "";
  });
  const fix = () =>
    expected &&
    tune({
      noise: settings.noise ?? expected.noise,
      ...(widthSet || !expected.width_min
        ? {}
        : {
            width_min: expected.width_min,
            ...(expected.end_width_min === expected.width_min ? {} : { end_width_min: expected.end_width_min }),
          }),
    });
  const free = () => tune({ width_min: 0, end_width_min: undefined, noise: undefined });
</script>

<dl class="est" aria-label="Width and noise">
  <dt>Width in use</dt>
  <dd>{widths} <span class="from" class:set={widthSet}>{widthSet ? "set in the method" : over}</span></dd>
  <dt>Noise</dt>
  <dd>
    {noise ? `${significant(noise.sd, 2)} ${unit}${growth}` : missing}
    <span class="from" class:set={!!settings.noise}>{settings.noise ? "set in the method" : over}</span>
  </dd>
</dl>
<p class="turn">
  {#if !widthSet || !settings.noise}
    <button
      class="lnk"
      disabled={!expected}
      title="Write both into the method, so that they stay as they are whatever is added to the batch"
      onclick={fix}>Fix them in the method</button
    >
  {/if}
  {#if widthSet || settings.noise}
    <button class="lnk" title="Let the batch's traces tell both again" onclick={free}>Estimate from the batch</button>
  {/if}
</p>

<style>
  .est {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0 12px;
    font-size: 12.5px;
    line-height: 20px;
    padding-top: 4px;
  }
  dt {
    color: var(--ink-2);
  }
  dd {
    text-align: right;
  }
  .from {
    display: block;
    color: var(--ink-3);
    font-size: 12px;
    line-height: 15px;
    padding-bottom: 3px;
  }
  .from.set {
    color: var(--ink-2);
  }
  .turn {
    display: flex;
    justify-content: space-between;
    font-size: 12.5px;
    padding: 2px 0 9px;
  }
</style>
