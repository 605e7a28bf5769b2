<script lang="ts">
  // What the newest version of the method did to the amounts of this compound.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Compound } from "../../api/client";
  import { signed, significant } from "../../look/number";
  import { ask } from "../../state/ask";

  let { batch, compound }: { batch: Batch; compound: Compound } = $props();
  const since = createQuery(() => ({ ...ask.since(batch.id, batch.revision, ""), enabled: batch.version.number > 1 }));
  const moved = $derived(
    (since.data?.effects ?? [])
      .filter((e) => e.compound_id === compound.id && e.percent !== null)
      .sort((a, b) => Math.abs(b.percent!) - Math.abs(a.percent!)),
  );
</script>

{#if moved.length > 0 && since.data}
  <section aria-label="Moved">
    <h2>Moved <span class="r">{moved.length} means, since version {since.data.version.number}</span></h2>
    <table>
      <tbody>
        {#each moved.slice(0, 3) as e (e.name)}
          <tr
            ><td class="l">{e.name}</td><td>{significant(e.before, 3)}</td><td>{significant(e.after, 3)}</td><td
              >{signed(e.percent, 1)} %</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </section>
{/if}

<style>
  td {
    padding: 0 4px;
  }
</style>
