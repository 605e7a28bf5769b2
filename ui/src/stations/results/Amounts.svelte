<script lang="ts">
  // What is reported, how it comes about from the reading, what the standards hold, and what targets are read against. Everything is tried on one
  // sample first and kept as one version.
  import type { Batch, Method, Result } from "../../api/client";
  import { draft } from "./draft.svelte";
  import Against from "./Against.svelte";
  import Contents from "./Contents.svelte";
  import Sentence from "./Sentence.svelte";
  import Way from "./Way.svelte";

  let { batch, result, injection, compound }: { batch: Batch; result: Result; injection: string; compound: string } = $props();
  const method = $derived(draft.method(batch) ?? batch.version.method);
  const amounts = $derived(method.amounts);
  const sample = $derived(batch.injections.find((i) => i.id === injection));
  const name = $derived(method.compounds.find((c) => c.id === compound)?.name ?? "");

  type Amounts = Method["amounts"];
  type Key = "measured" | "mass" | "volume" | "share";
  /** Which kind of quantity a unit is of, by how it is written. */
  const isVolume = (unit: string) => /[lL]$/.test(unit.trim());
  const now = $derived<Key>(
    amounts.as_measured ? "measured" : amounts.percent_of_total ? "share" : isVolume(amounts.sample_unit) ? "volume" : "mass",
  );
  const plain = $derived({ ...amounts, as_measured: undefined, percent_of_total: undefined });
  const ways = $derived<[key: Key, word: string, needs: string, amounts: Amounts][]>([
    ["measured", "As measured, in the vial", "nothing more is needed", { ...plain, as_measured: true }],
    [
      "mass",
      "Per sample mass",
      "dilution, extract volume, sample weighed",
      now === "mass"
        ? amounts
        : {
            ...plain,
            unit: isVolume(plain.sample_unit) ? "mg/g" : plain.unit,
            sample_unit: isVolume(plain.sample_unit) ? "g" : plain.sample_unit,
          },
    ],
    [
      "volume",
      "Per sample volume",
      "dilution, volume made up to, sample measured",
      now === "volume"
        ? amounts
        : {
            ...plain,
            unit: isVolume(plain.sample_unit) ? plain.unit : method.curves.unit,
            sample_unit: isVolume(plain.sample_unit) ? plain.sample_unit : "mL",
          },
    ],
    ["share", "Percent of the total", "each target's share of all; no dilution or weight matters", { ...plain, percent_of_total: true }],
  ]);
  const set = (change: Partial<Amounts>, what: string) => draft.change(batch, { amounts: { ...amounts, ...change } }, what);
  const choose = (a: Amounts, word: string) => draft.change(batch, { amounts: a }, `reported: ${word.toLowerCase()}`);
  function key(e: KeyboardEvent) {
    if (e.key === "Enter" && draft.method(batch)) {
      e.preventDefault();
      e.stopPropagation();
      void draft.keep(batch);
      return;
    }
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (!step) return;
    e.preventDefault();
    e.stopPropagation();
    const at = ways.findIndex(([k]) => k === now);
    const to = ways[Math.max(0, Math.min(ways.length - 1, at + step))]!;
    choose(to[3], to[1]);
  }
  /** The numbers of the run list stay; another unit reads them as something else. */
  const reread = (k: Key, a: Amounts) =>
    (k === "mass" || k === "volume") && a.sample_unit !== batch.version.method.amounts.sample_unit
      ? `reads the samples of the run list as ${a.sample_unit}, not ${batch.version.method.amounts.sample_unit}`
      : "";
  const standards = $derived(method.compounds.filter((c) => c.role === "internal_standard"));
</script>

<div class="roll" role="region" aria-label="Amounts">
  <div class="cap">
    <h2>What is reported</h2>
    <span class="note">{name} in {sample?.name ?? "no sample"}</span>
  </div>
  <div class="ways" role="radiogroup" aria-label="What is reported" tabindex="0" data-own-keys onkeydown={key}>
    {#each ways as [k, word, needs, a] (k)}
      <Way
        {batch}
        method={{ ...method, amounts: a }}
        on={k === now}
        {word}
        {needs}
        doubt={reread(k, a)}
        {injection}
        {compound}
        choose={() => choose(a, word)}
      />
    {/each}
  </div>
  <Sentence {batch} {method} {sample} {injection} {compound} {set} />
  <div class="below" class:two={standards.length > 0}>
    <Contents {batch} {method} {result} />
    {#if standards.length > 0}<Against {batch} {method} />{/if}
  </div>
</div>

<style>
  .cap {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    padding-bottom: 3px;
    border-bottom: 1px solid var(--mist-3);
  }
  .ways {
    outline-offset: -2px;
    margin-bottom: 16px;
  }
  .below {
    display: grid;
    gap: 28px;
  }
  .below.two {
    grid-template-columns: minmax(0, 1fr) max-content;
  }
  @container main (max-width: 900px) {
    .below.two {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
