<script lang="ts">
  // Another injection under this one, integrated with the same settings: a standard beside a sample.
  import { count } from "../../look/number";
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../api/client";
  import Chromatogram, { type Shown } from "../../plot/Chromatogram.svelte";
  import type { Window } from "../../plot/window.svelte";
  import { ask } from "../../state/ask";
  import { replicate } from "../../state/desk.svelte";

  let {
    batch,
    id,
    channel,
    peaks,
    view,
    selectedName,
    choose,
  }: {
    batch: Batch;
    id: string;
    channel: string;
    peaks: Shown[];
    view: Window;
    /** The compound that is selected above; its peak is selected here too. */
    selectedName: string;
    choose: (id: string) => void;
  } = $props();

  const trace = createQuery(() => ask.trace(batch.id, id, channel));
  const injection = $derived(batch.injections.find((i) => i.id === id));
  const selected = $derived(peaks.find((p) => selectedName && p.name === selectedName)?.number ?? null);
</script>

<div class="head">
  <h1>
    <select class="field" aria-label="Beside it" value={id} onchange={(e) => choose(e.currentTarget.value)}>
      {#each batch.injections as i, k (i.id)}<option value={i.id}>{i.name} {replicate(batch, k)}</option>{/each}
    </select>
  </h1>
  <span class="note">the same settings · {count(peaks.length, "peak")}, {peaks.filter((p) => p.name).length} named</span>
</div>
<Chromatogram trace={trace.data} unit={injection?.unit || "signal"} {peaks} {selected} {view} />

<style>
  select {
    font: 500 var(--t-head) / 1.2 var(--f-read);
    border: 0;
    max-width: 320px;
  }
</style>
