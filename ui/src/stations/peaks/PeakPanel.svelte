<script lang="ts">
  // The selected peak: how it came to be, what can be done to it, and the measures that the table has no room for.
  import { createQuery } from "@tanstack/svelte-query";
  import { missing, significant } from "../../look/number";
  import type { Shown } from "../../plot/Chromatogram.svelte";
  import { ask } from "../../state/ask";
  import { baselineWords, measures, partKeys, partWords, sideWords, termWords, type Part } from "./words";

  let {
    batch,
    revision,
    injection,
    channel,
    peak,
    unit,
    touches,
    part,
    split,
    merge,
    remove,
    anchor,
  }: {
    batch: string;
    revision: number;
    injection: string;
    channel: string;
    peak: Shown;
    unit: string;
    /** Whether it touches another peak. */
    touches: boolean;
    part: (how: Part) => void;
    split: () => void;
    merge: () => void;
    remove: () => void;
    anchor: () => void;
  } = $props();

  let open = $state(false);
  // A peak that is being tried has all its measures; of a kept one they are asked for when they are looked at.
  const tried = $derived(peak.skew !== undefined);
  const query = createQuery(() => ({ ...ask.peaks(batch, revision, injection, channel), enabled: open && !tried }));
  const whole = $derived(tried ? peak : query.data?.find((p) => p.number === peak.number));
  const value = (key: string) => (whole as unknown as Record<string, number | null | undefined> | undefined)?.[key];
</script>

<section aria-label="This peak">
  <h2>{peak.name || "Unnamed"} <span class="r">{peak.apex_min.toFixed(3)} min</span></h2>
  <p class="note">
    {sideWords[peak.start_kind]} to {sideWords[peak.end_kind]}; baseline {baselineWords[peak.baseline_kind]}.{#if peak.shape}&#32;R² {peak.shape.r_squared.toFixed(
        5,
      )}, tail {significant(peak.shape.tau_min, 3)} min.{/if}
  </p>
  <p class="acts" role="group" aria-label="Part it from its neighbours by">
    <span class="mut">by</span>
    {#each Object.entries(partWords) as [how, word] (how)}
      <button
        class="lnk"
        disabled={!touches && how !== "fit"}
        onclick={() => part(how as Part)}
        title={`Tries it: parted from its neighbours by ${word}`}>{word}</button
      ><kbd>{partKeys[how as Part]}</kbd>
    {/each}
  </p>
  <p class="acts">
    <button class="lnk" onclick={split} title="Splits the peak where the pointer stood last">split</button><kbd>S</kbd>
    <button class="lnk" disabled={!touches} onclick={merge} title="Merges it with the peak at its left">merge left</button><kbd>M</kbd>
    <button class="lnk" onclick={anchor} title="Puts an anchor of the baseline where the pointer stood last">anchor</button><kbd>A</kbd>
    <button class="lnk" onclick={remove} title="Removes the peak in this injection">remove</button><kbd>Del</kbd>
  </p>
  <button
    class="lnk more"
    aria-expanded={open}
    title={open ? "Hides the seldom used measures" : "Shows everything that is measured of this peak"}
    onclick={() => (open = !open)}>{open ? "Fewer measures" : "All measures"}</button
  >
  {#if open && query.isError}<p class="att">{query.error.message}</p>
  {:else if open}
    <dl class:pending={!whole}>
      <dt>Area, standard uncertainty</dt>
      <dd>± {significant(peak.area_standard_uncertainty_s, 2)} <small>{unit}·s</small></dd>
      {#each Object.entries(termWords) as [key, word] (key)}
        {@const v = whole?.area_terms_s?.[key as keyof typeof termWords]}
        {#if v !== undefined}
          <dt class="term">{word}</dt>
          <dd>{v === 0 ? "none" : significant(v, 2)} <small>{v === 0 ? "" : `${unit}·s`}</small></dd>
        {/if}
      {/each}
      {#each measures as [key, word, unit, digits] (key)}
        {@const v = value(key)}
        <dt>{word}</dt>
        <dd class:mut={v === null || v === undefined} title={whole?.absent?.[key] ?? ""}>
          {#if v === null || v === undefined}{missing}{:else}{significant(v, digits)} <small>{unit}</small>{/if}
        </dd>
      {/each}
    </dl>
    {#each [...new Set(Object.values(whole?.absent ?? {}))] as why (why)}
      <p class="note">{missing} {why}</p>
    {/each}
  {/if}
</section>

<style>
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 8px;
    align-items: baseline;
    font-size: 12.5px;
    line-height: 22px;
  }
  .acts .lnk {
    min-height: 24px;
  }
  .acts kbd {
    margin-left: -6px;
  }
  .lnk:disabled {
    color: var(--ink-3);
    border-color: transparent;
    cursor: default;
  }
  .more {
    min-height: 24px;
    font-size: 12.5px;
  }
  dl {
    display: grid;
    grid-template-columns: 1fr auto;
    font-size: 12.5px;
    line-height: 20px;
    padding-top: 4px;
  }
  .pending {
    opacity: 0.5;
  }
  dt {
    color: var(--ink-2);
  }
  .term {
    padding-left: 12px;
    color: var(--ink-3);
  }
  dd {
    text-align: right;
  }
</style>
