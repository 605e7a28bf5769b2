<script lang="ts">
  // The files of one injection, one a detector: joined by name and time, parted and joined by hand.
  import type { Batch, Injection } from "../../api/client";
  import { desk, replicate } from "../../state/desk.svelte";

  let { batch, injection }: { batch: Batch; injection: Injection } = $props();
  const more = $derived(injection.more ?? []);
  const others = $derived(
    batch.injections
      .map((i, k) => ({ i, name: `${k + 1} ${i.name} ${replicate(batch, k)}`.trim() }))
      .filter(({ i }) => i.id !== injection.id && !i.typed),
  );
  let joining = $state(false);
</script>

{#if !injection.typed}
  <p class="files">
    {#if more.length > 0}<span class="mut">also of this injection:</span>{/if}
    {#each more as f (f.raw_hash)}
      <span class="one"
        ><span title={f.file_name}>{f.file_name}</span><button
          class="lnk"
          title="Makes it an injection of its own"
          onclick={() => desk.part(injection.id, f.raw_hash)}>part</button
        ></span
      >
    {/each}
    {#if joining}
      <select
        class="field"
        aria-label="Join with"
        title="The other becomes a further file of this injection"
        value=""
        onchange={(e) => (e.currentTarget.value && void desk.join(injection.id, e.currentTarget.value), (joining = false))}
      >
        <option value="">which one belongs to it?</option>
        {#each others as o (o.i.id)}<option value={o.i.id}>{o.name}</option>{/each}
      </select>
    {:else if others.length > 0}
      <button
        class="lnk"
        title="Another injection was measured together with this one, by another detector"
        onclick={() => (joining = true)}>join a file of another detector</button
      >
    {/if}
  </p>
{/if}

<style>
  .files {
    display: grid;
    gap: 2px;
    justify-items: start;
    font-size: 12px;
    padding: 4px 0;
  }
  .one {
    display: flex;
    gap: 8px;
    width: 100%;
    justify-content: space-between;
  }
  .one span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
