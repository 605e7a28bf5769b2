<script lang="ts">
  // What is done to the traces for looking at them, as one sentence whose words are the controls.
  import type { Batch } from "../../api/client";
  import { place } from "../../state/place.svelte";
  import { replicate } from "../../state/desk.svelte";
  import { treated, type Treatment } from "./modes";

  let { batch, treatment, held }: { batch: Batch; treatment: Treatment; /** As measured, while the key is held. */ held: boolean } =
    $props();
  const compounds = $derived(batch.version.method.compounds.toSorted((a, b) => a.expected_min - b.expected_min));
  const others = $derived(
    batch.injections
      .map((i, k) => ({ i, name: `${i.name} ${replicate(batch, k)}`.trim(), k }))
      .filter(({ i }) => !i.typed)
      .toSorted((a, b) => Number(b.i.role === "blank") - Number(a.i.role === "blank") || a.k - b.k),
  );
  const set = (query: Record<string, string>) => place.go({ query }, false);
</script>

<p class="treated" role="group" aria-label="What is done to the traces">
  <span>Heights</span>
  <select
    aria-label="Heights"
    title="How high the traces are drawn"
    value={treatment.heights}
    onchange={(e) => set({ heights: e.currentTarget.value })}
  >
    <option value="">as measured</option>
    <option value="tallest">to the tallest peak</option>
    <option value="area">to the area of all peaks</option>
    {#each compounds as c (c.id)}<option value={c.id}>to {c.name} = 100</option>{/each}
  </select><span>, lined up on</span>
  <select
    aria-label="Lined up on"
    title="By what the traces are moved in time"
    value={treatment.lined}
    onchange={(e) => set({ lined: e.currentTarget.value })}
  >
    <option value="">nothing</option>
    <option value="correlation">all peaks</option>
    {#each compounds as c (c.id)}<option value={c.id}>{c.name}</option>{/each}
  </select><span>, less</span>
  <select
    aria-label="Less"
    title="What is taken off each trace, point by point"
    value={treatment.less}
    onchange={(e) => set({ less: e.currentTarget.value })}
  >
    <option value="">nothing</option>
    {#each others as o (o.i.id)}<option value={o.i.id}>{o.name}</option>{/each}
  </select>.
  {#if treated(treatment)}
    <span class="mut"><kbd>B</kbd> {held ? "as measured" : "hold: as measured"}. Only drawn so: areas and results stay as they are.</span>
    <button class="lnk" onclick={() => set({ heights: "", lined: "", less: "" })}>as measured</button>
  {/if}
</p>

<style>
  .treated {
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    gap: 0 4px;
    padding: 0 16px 4px;
    font-size: 12.5px;
    min-height: 26px;
  }
  select {
    appearance: none;
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    background: none;
    padding: 0 2px;
    min-height: 24px;
    color: var(--ai-text, var(--ai));
    font: inherit;
    max-width: 190px;
    field-sizing: content;
    text-overflow: ellipsis;
    cursor: pointer;
  }
  .mut {
    margin-left: 10px;
  }
</style>
