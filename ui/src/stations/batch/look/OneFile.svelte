<script lang="ts">
  // What the batch's method and curves make of one file, before anything is kept: one file, no ceremony.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, type Batch } from "../../../api/client";
  import { allPeaks } from "../../../state/channel";
  import { fixed, missing, significant } from "../../../look/number";

  let { batch, id, name }: { batch: Batch; id: string; name: string } = $props();
  const query = createQuery(() => ({
    queryKey: ["look-results", batch.id, batch.revision, id],
    queryFn: () => answer(api.GET("/api/batches/{batch}/looks/{look}/results", { params: { path: { batch: batch.id, look: id } } })),
  }));
  const method = $derived(batch.version.method);
  const rows = $derived(
    method.compounds
      .toSorted((a, b) => a.expected_min - b.expected_min)
      .map((c) => {
        const i = query.data?.injection;
        const peak = i && allPeaks(i).find((p) => p.compound_id === c.id);
        return { c, peak, reading: i?.readings[c.id] };
      }),
  );
</script>

<section aria-label="Results of one file">
  <h2>Its results <span class="r">nothing is kept</span></h2>
  <p class="note">{name}, by {batch.version.name}, version {batch.version.number}, and the curves of this batch.</p>
  {#if query.isError}<p class="att" role="alert">{query.error.message}</p>
  {:else if !query.data}<p class="note">Processing …</p>
  {:else}
    <table>
      <thead><tr><th class="l">Compound</th><th>RT, min</th><th>Area</th><th>{method.curves.unit}</th></tr></thead>
      <tbody>
        {#each rows as r (r.c.id)}
          <tr
            ><td class="l">{r.c.name}</td><td class:mut={!r.peak}>{r.peak ? fixed(r.peak.apex_min, 3) : missing}</td><td class:mut={!r.peak}
              >{r.peak ? significant(r.peak.area_s, 4) : missing}</td
            ><td class:mut={!r.reading?.concentration} class:att={r.reading?.flags.includes("above_range")}
              >{r.reading?.concentration ? significant(r.reading.concentration, 4) : missing}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    {#if method.compounds.length === 0}<p class="note">{query.data.injection.peaks.length} peaks; none has a name yet.</p>{/if}
    {#each query.data.notices as n (n)}<p class="note cau">{n}</p>{/each}
  {/if}
</section>

<style>
  table {
    width: 100%;
    font-size: 12.5px;
    margin-top: 4px;
  }
</style>
