<script lang="ts">
  // What has changed in the reported means since an earlier version of the method, for the same files, run list and edits.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../api/client";
  import { count, signed, significant } from "../../look/number";
  import { ask } from "../../state/ask";
  import OnceMore from "./OnceMore.svelte";

  let { batch }: { batch: Batch } = $props();
  let version = $state("");
  const versions = createQuery(() => ask.versions(batch.id, batch.revision));
  const since = createQuery(() => ask.since(batch.id, batch.revision, version));
  const names = $derived(new Map(batch.version.method.compounds.map((c) => [c.id, c.name])));
  const earlier = $derived((versions.data ?? []).filter((v) => v.number < batch.version.number));
  const rows = $derived([...(since.data?.effects ?? [])].sort((a, b) => Math.abs(b.percent ?? 1e9) - Math.abs(a.percent ?? 1e9)));
</script>

<div class="roll" role="region" aria-label="Changed">
  <OnceMore {batch} />
  <h2>Since an earlier version</h2>
  {#if since.isError}<p class="att" role="alert">{since.error.message}</p>
  {:else if !since.data || !versions.data}<p class="note">Comparing …</p>
  {:else if earlier.length === 0}<p class="lede">This is the first version of the method: there is nothing to compare with.</p>
  {:else}
    <p class="lede">
      {rows.length === 0
        ? "No reported mean has changed"
        : `${count(rows.length, "reported mean")} ${rows.length === 1 ? "has" : "have"} changed, ${since.data.same} have not,`} since
      <select class="field" aria-label="Since version" value={since.data.version.id} onchange={(e) => (version = e.currentTarget.value)}>
        {#each earlier as v (v.id)}<option value={v.id}>version {v.number}: {v.reason}</option>{/each}
      </select>
    </p>
    {#if rows.length > 0}
      <table>
        <thead><tr><th class="l">Sample</th><th class="l">Compound</th><th>Then</th><th>Now</th><th>Change</th></tr></thead>
        <tbody>
          {#each rows as e (e.name + e.compound_id)}
            <tr
              ><td class="l">{e.name}</td><td class="l">{names.get(e.compound_id)}</td><td>{significant(e.before, 4)}</td><td
                >{significant(e.after, 4)}</td
              ><td class:att={Math.abs(e.percent ?? 100) > 5}
                >{e.percent === null ? (e.after === null ? "gone" : "new") : `${signed(e.percent, 2)} %`}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
</div>

<style>
  select {
    max-width: 420px;
  }
  table {
    max-width: 760px;
  }
</style>
