<script lang="ts">
  // The run of a diode array: its map under the chromatogram on one time axis, and whether the chosen peak is one compound.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Injection } from "../../api/client";
  import type { Window } from "../../plot/window.svelte";
  import { ask } from "../../state/ask";
  import Map from "./Map.svelte";

  let {
    batch,
    injection,
    view,
    look,
    at,
  }: { batch: Batch; injection: Injection; view: Window; look: (min: number) => void; at: number | null } = $props();
  const map = createQuery(() => ask.spectraMap(batch.id, injection.id));
</script>

{#if map.isError}<div class="empty">{map.error.message}</div>
{:else if !map.data}<div class="empty">Reading the spectra of the run …</div>
{:else if map.data.times_min.length === 0}<div class="empty">The file holds no spectrum.</div>
{:else}<Map map={map.data} {view} {look} {at} />{/if}
