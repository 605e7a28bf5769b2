<script lang="ts">
  // Whose standards the curves are of: this batch's own, or those of an earlier one, with the days between.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Curve } from "../../api/client";
  import { ask } from "../../state/ask";
  import { desk } from "../../state/desk.svelte";
  import { reason } from "../../state/reason.svelte";

  let { batch, curve }: { batch: Batch; curve: Curve } = $props();

  const studies = createQuery(() => ask.studies());
  const from = $derived(batch.choices.earlier);
  let choosing = $state(false);
  const day = 86_400_000;
  const days = $derived.by(() => {
    const measured = from?.measured_at;
    const here = batch.injections.map((i) => i.header.acquired_at).filter((t): t is string => !!t);
    if (!measured || here.length === 0) return null;
    return Math.round((Math.max(...here.map(Date.parse)) - Date.parse(measured)) / day);
  });
  const between = $derived(
    days === null
      ? "no file says when"
      : days === 0
        ? "the same day"
        : `${Math.abs(days)} ${Math.abs(days) === 1 ? "day" : "days"} ${days > 0 ? "before" : "after"}`,
  );
  async function use(id: string, name: string) {
    choosing = false;
    const why = await reason.ask(id ? `Read this batch from the curves of ${name}` : "Make curves of this batch's own standards");
    if (why) await desk.useEarlier(id, why);
  }
</script>

<section aria-label="Standards">
  <p class="from">
    {#if from}
      <span class="cau">Curves of {from.batch}</span>, {between}.
      <button class="lnk" onclick={() => use("", "")} title="Reads the samples from the standards in this batch"
        >Use this batch's own standards</button
      >
    {:else if choosing}
      <select
        class="field"
        aria-label="Curves of"
        title="The batch whose curves are used"
        onchange={(e) => use(e.currentTarget.value, e.currentTarget.selectedOptions[0]!.text)}
      >
        <option value="">of which batch?</option>
        {#each studies.data ?? [] as s (s.id)}
          <optgroup label={s.name}>
            {#each s.batches.filter((b) => b.id !== batch.id) as b (b.id)}<option value={b.id}>{b.name}</option>{/each}
          </optgroup>
        {/each}
      </select>
      <button class="lnk" onclick={() => (choosing = false)} title="Leaves it as it is">put back</button>
    {:else}
      {curve.points.length === 0 ? "No standard of its own." : "Standards of this batch."}
      <button class="lnk" onclick={() => (choosing = true)} title="Reads the samples from the curves of another batch of the laboratory"
        >Use curves of an earlier batch</button
      >
    {/if}
  </p>
</section>

<style>
  .from {
    font-size: 12.5px;
    color: var(--ink-2);
  }
  select {
    width: 190px;
  }
</style>
