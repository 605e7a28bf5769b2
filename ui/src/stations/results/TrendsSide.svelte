<script lang="ts">
  // The picked injection in all charts, and by which rules they are judged.
  import type { Batch } from "../../api/client";
  import { place } from "../../state/place.svelte";
  import { savePNG, saveSVG } from "../../plot/picture";
  import { ruleWords, trends } from "./trends.svelte";

  let { batch }: { batch: Batch } = $props();
  const first = $derived(trends.points[0]?.point);
  const element = () => document.querySelector<HTMLElement>(".charts");
  const toggle = (rule: string) =>
    trends.set({ rules: trends.kept.rules.includes(rule) ? trends.kept.rules.filter((r) => r !== rule) : [...trends.kept.rules, rule] });
</script>

<section aria-label="The picked point">
  <h2>{first ? first.name : "Pick a point"} <span class="r">{first ? `run ${first.number}` : ""}</span></h2>
  {#if first}
    <p class="note">
      {first.batch}{first.at
        ? `, ${new Date(first.at).toLocaleString("en-GB", { day: "numeric", month: "short", year: "numeric", hour: "2-digit", minute: "2-digit", timeZone: "UTC" })}`
        : ""}{first.here ? ", this batch" : ""}
    </p>
    {#each trends.points as p (p.words)}
      <p class="fact">
        <span>{p.words}</span><b class="num">{p.point.shown}</b>
        {#if p.point.breaks.length}<span class="att wide">{p.point.breaks.map((b) => ruleWords[b]).join(", ")}</span>{/if}
      </p>
    {/each}
    <button
      class="btn"
      title="Goes to its chromatogram"
      onclick={() => place.go({ batch: first.batch_id, station: "peaks", query: { i: first.injection_id } })}
      >Its peak <kbd>Enter</kbd></button
    >
  {:else}<p class="note">Its values stand here, and its chromatogram is one press away.</p>{/if}
</section>
<section aria-label="Rules">
  <h2>Rules</h2>
  {#each Object.entries(ruleWords) as [rule, words] (rule)}
    <label class="chk"
      ><input
        type="checkbox"
        title="Whether {words} is marked"
        checked={trends.kept.rules.includes(rule)}
        onchange={() => toggle(rule)}
      />{words}</label
    >
  {/each}
  <p class="note">
    Limits are those of the method or the field; where there are none, mean ± 3 SD by moving ranges of batches before this one, of eight
    values at least.
  </p>
</section>
<section aria-label="Picture">
  <h2>Picture</h2>
  <p class="acts">
    as <button class="lnk" title="Writes the charts as lines" onclick={() => element() && saveSVG(element()!, `${batch.name}, trends`)}
      >SVG</button
    >
    <button
      class="lnk"
      title="Writes the charts as points, twice the size"
      onclick={() => element() && void savePNG(element()!, `${batch.name}, trends`)}>PNG</button
    >
  </p>
</section>

<style>
  .fact {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 8px;
    font-size: 12.5px;
    line-height: 21px;
    border-bottom: 1px solid var(--mist-1);
  }
  .wide {
    grid-column: 1 / -1;
  }
  .chk {
    display: flex;
    font-size: 12.5px;
    line-height: 21px;
  }
  .acts {
    display: flex;
    gap: 12px;
    font-size: 12.5px;
  }
</style>
