<script lang="ts">
  // Detection and quantitation limits of one compound: every way, every batch of the study, the spread, the cautious proposal, and the
  // choice with its reason.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Compound } from "../../api/client";
  import { significant } from "../../look/number";
  import { ask } from "../../state/ask";
  import { place } from "../../state/place.svelte";
  import { wayWords, type Way } from "./calibration";
  import LimitSpread from "./LimitSpread.svelte";

  let {
    batch,
    compound,
    choose,
    all,
  }: {
    batch: Batch;
    compound: Compound;
    choose: (limits: { lod: number; loq: number; way: Way } | null) => void;
    all: (way: Way, limits: { compound: string; lod: number; loq: number }[], without: string[]) => void;
  } = $props();

  const limits = createQuery(() => ask.limits(batch.id, batch.revision));
  const table = $derived(limits.data?.find((t) => t.compound_id === compound.id));
  const unit = $derived(batch.version.method.curves.unit);
  const cell = (day: { limits: { way: string; lod: number | null; loq: number | null; problem?: string }[] }, way: string) =>
    day.limits.find((l) => l.way === way);
  let lod = $state("");
  let loq = $state("");
  const number = (text: string) => Number(text.replace(",", "."));
  const nameOf = (id: string) => batch.version.method.compounds.find((c) => c.id === id)?.name ?? id;
  function forAll(way: Way) {
    const by = (limits.data ?? []).map((t) => ({ compound: t.compound_id, w: t.ways.find((w) => w.way === way) }));
    const have = by.flatMap((b) => (b.w?.loq ? [{ compound: b.compound, lod: b.w.lod ?? 0, loq: b.w.loq }] : []));
    all(
      way,
      have,
      by.filter((b) => !b.w?.loq).map((b) => nameOf(b.compound)),
    );
  }
  /** Which compounds have chosen limits by another way than this one, in words. */
  const unlike = $derived.by(() => {
    const mine = table?.chosen?.way;
    const list = (limits.data ?? []).filter((t) => t.chosen?.way !== mine);
    if (list.length === 0) return "";
    return list.map((t) => `${nameOf(t.compound_id)} ${t.chosen ? wayWords[t.chosen.way] : "no choice"}`).join(", ");
  });
  const own = $derived(number(lod) >= 0 && number(loq) > 0 && number(loq) >= number(lod) && lod !== "");
</script>

{#if limits.isError}
  <div class="empty">{limits.error.message} <button class="btn" onclick={() => limits.refetch()}>Try again</button></div>
{:else if !table}
  <div class="empty">Gathering the limits of all batches of this study …</div>
{:else}
  <div class="roll" aria-label="Limits" role="region">
    <p class="lede">
      {#if table.chosen}
        Chosen: not detected below {significant(table.chosen.lod, 3)}, quantified from {significant(table.chosen.loq, 3)}
        {unit}, by {wayWords[table.chosen.way]}. {table.chosen.reason}
        <button class="lnk" onclick={() => choose(null)} title="Goes back to the limits of the curve itself">Without a choice</button>
      {:else if table.proposed}
        The most cautious of {table.days.length}
        {table.days.length === 1 ? "batch" : "batches"}: {significant(table.proposed.lod, 3)} to detect,
        {significant(table.proposed.loq, 3)}
        {unit} to quantify, by {wayWords[table.proposed.way]}. It is a proposal.
      {:else}No way gives a limit yet: it takes a curve with more points than coefficients, replicates at its lowest level, or blanks.{/if}
    </p>
    <table>
      <thead>
        <tr>
          <th class="l">LOD / LOQ, {unit}</th>
          {#each table.days as d (d.batch_id)}<th
              ><button
                class="lnk"
                onclick={() => place.go({ batch: d.batch_id, station: "curves", query: { c: compound.id } })}
                title="Opens the curve of that batch">{d.batch}</button
              ></th
            >{/each}
          <th>mean LOQ</th><th>SD</th><th>largest</th><th></th>
        </tr>
      </thead>
      <tbody>
        {#each table.ways as w (w.way)}
          <tr class:sel={table.chosen?.way === w.way}>
            <td class="l">{wayWords[w.way]}</td>
            {#each table.days as d (d.batch_id)}
              {@const l = cell(d, w.way)}
              <td class:mut={!l?.loq} title={l?.problem ?? ""}>
                {#if !l || l.loq === null}–{:else}{l.lod === null ? "" : `${significant(l.lod, 2)} / `}{significant(l.loq, 3)}{/if}
              </td>
            {/each}
            <td>{significant(w.mean_loq, 3)}</td>
            <td>{significant(w.sd_loq, 2)}</td>
            <td class="big">{w.lod === null ? "" : `${significant(w.lod, 2)} / `}{significant(w.loq, 3)}</td>
            <td
              >{#if w.loq !== null}<button
                  class="lnk"
                  aria-label="Use the limits by {wayWords[w.way]}"
                  title="Takes these limits into the method"
                  onclick={() => choose({ lod: w.lod ?? 0, loq: w.loq!, way: w.way })}>use</button
                >
                <button
                  class="lnk"
                  aria-label="Use the limits by {wayWords[w.way]} for all compounds"
                  title="Takes each compound's limits by this way into the method; what changes is said before"
                  onclick={() => forAll(w.way)}>for all</button
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="note">{unlike ? `Chosen otherwise: ${unlike}.` : "All compounds have their limits by the same way."}</p>
    <LimitSpread days={table.days} ways={table.ways} chosen={table.chosen?.loq ?? null} {unit} />
    <p class="own">
      Or your own: detect from <input
        class="field"
        aria-label="LOD of your own"
        title="The content from which the compound counts as detected"
        bind:value={lod}
      />, quantify from
      <input class="field" aria-label="LOQ of your own" title="The content from which amounts are reported" bind:value={loq} />
      {unit}
      <button
        class="btn"
        disabled={!own}
        title="Takes these limits into the method"
        onclick={() => choose({ lod: number(lod), loq: number(loq), way: "lowest_level" })}>Use these</button
      >
    </p>
    <p class="note">
      LOD = 3.3 σ/S and LOQ = 10 σ/S with the slope S at the lower end of the curve; by signal-to-noise where 2H/h is 3 and 10. Of several
      days the largest counts. Where a way has no number, the pointer says why.
    </p>
  </div>
{/if}

<style>
  td,
  th {
    padding: 0 5px;
  }
  .big {
    font-weight: 600;
  }
  .own {
    padding: 12px 0 8px;
  }
  .own .field {
    width: 70px;
    text-align: right;
  }
</style>
