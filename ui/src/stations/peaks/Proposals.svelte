<script lang="ts">
  // What integration would do differently if it were asked: stretches where drops serve badly, and peaks that were found and not measured.
  import type { Dropped, Proposal } from "../../api/client";
  import Mark from "../../parts/Mark.svelte";
  import { partWords, type Part } from "./words";

  let {
    proposals,
    dropped,
    silence,
    nameAt,
    take,
    show,
  }: {
    proposals: Proposal[];
    dropped: Dropped[];
    /** What stands where there is nothing to propose, or not yet. */
    silence: string;
    /** The name of the peak at a time, or where it stands. */
    nameAt: (apexMin: number) => string;
    take: (p: Proposal) => void;
    show: (atMin: number) => void;
  } = $props();

  const change = (p: Proposal) =>
    `${Math.abs(p.area_change_percent).toFixed(1)}\u00a0% ${p.area_change_percent > 0 ? "larger" : "smaller"}`;
  const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
</script>

<!-- Proposals come a moment later than peaks, so their place is kept and nothing below it moves. -->
<section aria-label="Proposed">
  <h2>Proposed <span class="r">this injection</span></h2>
  <div class="list">
    {#each proposals as p, i (p.from_min)}
      <div class="row">
        <span class="fl"><Mark name="look" /></span>
        <button class="what" onclick={() => show(p.apex_min)} title="Shows the place on the chromatogram"
          >{sentence(p.reason)} at {p.apex_min.toFixed(2)} min. Parted by a {partWords[p.part_by as Part]}, {nameAt(p.apex_min)} would be {change(
            p,
          )}.</button
        >
        <button class="lnk" title="Try it over the whole batch; nothing is kept yet" onclick={() => take(p)}>try</button>
        {#if i === 0}<kbd title="Shift Enter tries the first">⇧⏎</kbd>{/if}
      </div>
    {/each}
    {#each dropped as d (d.apex_min)}
      <div class="row">
        <span class="fl"><Mark name="none" /></span>
        <button class="what" onclick={() => show(d.apex_min)} title="Shows the place on the chromatogram"
          >Found at {d.apex_min.toFixed(2)} min and not measured: {d.reason}.</button
        >
      </div>
    {/each}
    {#if proposals.length + dropped.length === 0}<p class="note">{silence}</p>{/if}
  </div>
</section>

<style>
  .list {
    height: 116px;
    overflow-y: auto;
    overscroll-behavior: contain;
  }
  .row {
    display: grid;
    grid-template-columns: 18px 1fr auto auto;
    gap: 0 6px;
    align-items: baseline;
    font-size: 12.5px;
    line-height: 18px;
    padding: 3px 0;
  }
  .what {
    text-align: left;
  }
  kbd {
    font-size: 11px;
  }
</style>
