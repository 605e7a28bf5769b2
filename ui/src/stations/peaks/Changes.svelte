<script lang="ts">
  // What a trial changes: areas before and after for the peaks that move, the count for the rest of the batch, keep or discard.
  import { fixed, signed } from "../../look/number";
  import type { Shown } from "../../plot/Chromatogram.svelte";
  import type { Moved } from "./trial.svelte";

  let {
    before,
    after,
    unit,
    whole,
    amount,
    keep,
    discard,
  }: {
    before: Shown[];
    after: Shown[];
    unit: string;
    whole: Moved | null;
    /** The amount of the selected compound, before and after. */
    amount: { name: string; unit: string; before: string; after: string } | null;
    keep: () => void;
    discard: () => void;
  } = $props();

  const rows = $derived.by(() => {
    const list: { name: string; before: number | null; after: number | null }[] = [];
    const used = new Set<number>();
    for (const b of before) {
      const a = after.find((p) => !used.has(p.number) && Math.abs(p.apex_min - b.apex_min) < 0.02);
      if (a) used.add(a.number);
      if (!a || Math.abs(a.area_s / b.area_s - 1) > 0.0005)
        list.push({ name: b.name || `unnamed ${b.apex_min.toFixed(2)}`, before: b.area_s, after: a?.area_s ?? null });
    }
    for (const a of after)
      if (!used.has(a.number)) list.push({ name: a.name || `unnamed ${a.apex_min.toFixed(2)}`, before: null, after: a.area_s });
    return list;
  });
  const unchanged = $derived(before.length - rows.filter((r) => r.before !== null).length);
  const percent = (r: { before: number | null; after: number | null }) =>
    r.before && r.after ? `${signed(100 * (r.after / r.before - 1), 1)} %` : "–";
</script>

<section aria-label="Previewing" class="preview">
  <h2 class="att">Previewing <span class="r"><kbd>B</kbd> hold to see as saved</span></h2>
  <div class="df">
    <span class="h">Area, {unit}·s</span><span class="h">before</span><span class="h">after</span><span class="h">change</span>
    {#each rows.slice(0, 7) as r (r.name)}
      <span class="n">{r.name}</span><span class="mut">{fixed(r.before, 1)}</span>
      <span class:att={r.after === null || r.before === null}
        >{r.after === null ? "gone" : r.before === null ? `new ${fixed(r.after, 1)}` : fixed(r.after, 1)}</span
      ><span>{percent(r)}</span>
    {/each}
    {#if amount}
      <span class="n">{amount.name}, {amount.unit}</span><span class="mut">{amount.before}</span><span>{amount.after}</span><span></span>
    {/if}
  </div>
  <p class="note">
    {rows.length > 7 ? `And ${rows.length - 7} more here. ` : ""}{unchanged} here unchanged.
    {#if whole}In the batch: {whole.moved} areas move by more than 1 %, {whole.gone} go, {whole.new} come.{:else}Counting the batch …{/if}
  </p>
  <div class="acts">
    <button class="btn pri" title="Keeps it as a new version of the method" onclick={keep}>Keep <kbd>Enter</kbd></button>
    <button class="btn" title="Goes back to what is kept" onclick={discard}>Discard <kbd>Esc</kbd></button>
  </div>
</section>

<style>
  .df {
    display: grid;
    grid-template-columns: 1fr 52px 62px 58px;
    font-size: 12.5px;
    line-height: 21px;
    column-gap: 4px;
  }
  .df > * {
    text-align: right;
    border-bottom: 1px solid var(--mist-1);
  }
  .df > *:nth-child(4n + 1) {
    text-align: left;
  }
  .df .h {
    color: var(--ink-3);
    font-size: 12px;
  }
  .n {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .note {
    margin-top: 5px;
  }
  .acts {
    display: flex;
    gap: 10px;
    margin-top: 9px;
  }
</style>
