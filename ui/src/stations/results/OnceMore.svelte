<script lang="ts">
  // Processing the batch once more, with another version of its method or the same: what would change, before it is taken.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../api/client";
  import { count, signed, significant } from "../../look/number";
  import Choice from "../../parts/Choice.svelte";
  import { ask } from "../../state/ask";
  import { desk, replicate } from "../../state/desk.svelte";
  import { place } from "../../state/place.svelte";
  import { left, underway } from "../../state/underway.svelte";

  let { batch }: { batch: Batch } = $props();
  const versions = createQuery(() => ({ ...ask.versions(batch.id, batch.revision), staleTime: 0 }));
  let picked = $state("");
  let some = $state(false);
  let chosen = $state<string[]>([]);
  let trouble = $state("");
  const list = $derived(versions.data ?? []);
  const version = $derived(picked || (list[0]?.id ?? ""));
  const said = (v: { id: string; number: number; reason: string }, k: number) =>
    v.id === batch.version.id
      ? `version ${v.number}, which made the present results${k === 0 ? "; the newest" : ""}`
      : k === 0
        ? `version ${v.number}, the newest: ${v.reason}`
        : `version ${v.number}: ${v.reason}`;

  const job = $derived(place.query.job ?? "");
  const running = $derived(underway.jobs.find((j) => j.id === job));
  const query = createQuery(() => ({ ...ask.jobChanges(job, !running), retry: 2 }));
  const found = $derived(query.data?.batch_id === batch.id ? query.data : undefined);
  const same = $derived(found?.from.version_id === found?.to.version_id);
  const taken = $derived(!same && found?.to.version_id === batch.version.id);
  const here = $derived(found && found.from.version_id === batch.version.id);

  async function begin() {
    trouble = "";
    try {
      const made = await underway.again(batch.id, { version, injection_ids: some ? chosen : [] });
      place.go({ query: { job: made.id } });
    } catch (error) {
      trouble = (error as Error).message;
    }
  }
  const toggle = (id: string) => (chosen = chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
</script>

<section aria-label="Once more">
  <h2>Once more <span class="note">what another version, or the same, makes of the raw data; nothing changes until you take it</span></h2>
  <div class="ask">
    <select class="field" aria-label="Version to process with" title="The version of the method to process with" bind:value={picked}>
      {#each list as v, k (v.id)}<option value={k === 0 ? "" : v.id}>{said(v, k)}</option>{/each}
    </select>
    <Choice
      label="What is compared"
      options={[
        ["all", "the whole batch"],
        ["some", "chosen injections"],
      ]}
      value={some ? "some" : "all"}
      choose={(v) => (some = v === "some")}
    />
    <button
      class="btn"
      title="Processes the batch from its raw data; its results stay as they are"
      disabled={!version || running !== undefined || (some && chosen.length === 0)}
      onclick={begin}>Process once more</button
    >
  </div>
  {#if some}
    <div class="pick" role="group" aria-label="Injections to compare">
      {#each batch.injections as inj, i (inj.id)}
        {#if inj.role === "sample"}
          <label class="chk" title="Compare {inj.name} {replicate(batch, i)}"
            ><input type="checkbox" checked={chosen.includes(inj.id)} onchange={() => toggle(inj.id)} />{i + 1}
            {inj.name}
            {replicate(batch, i)}</label
          >
        {/if}
      {/each}
    </div>
    <p class="note">
      An amount needs the curves of its batch: the whole batch is processed, and what moves in the chosen injections is told.
    </p>
  {/if}
  {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
  {#if running}
    <p class="run" role="status">
      <span class="line" style:--done={running.total ? running.done / running.total : 0}></span>
      {running.total ? `${running.done} of ${running.total}` : "reckoning"} <span class="mut">{left(running)}</span>
    </p>
  {:else if job && query.isError}<p class="att">What this job found is not kept: {query.error.message}</p>
  {:else if found}
    <p class="lede" role="status">
      {#if found.moved_in_all === 0}All {found.same} results come out as they are{:else}{count(found.moved_in_all, "result")}
        {found.moved_in_all === 1 ? "moves" : "move"}, {found.same === 0 ? "none stays" : `${found.same} stay`}
        {found.same === 0 ? "as it is" : "as they are"},{/if}
      with version {found.to.number}{same ? ", which made them" : ""}{found.injection_ids.length
        ? `; ${count(found.injection_ids.length, "injection")} looked at`
        : ""}.
      {#if taken}<b>Taken.</b>{/if}
    </p>
    {#if here && !same}
      {#if found.injection_ids.length > 0}<p class="note">To take it, process the whole batch.</p>
      {:else}<button
          class="btn pri"
          title="The batch is processed with it from now on; undo brings the present one back"
          onclick={() => desk.takeProcessed(found.job_id, found.to.number)}>Take version {found.to.number}</button
        >{/if}
      <button class="lnk" title="The results stay as they are" onclick={() => place.go({ query: { job: "" } })}>leave it</button>
    {:else if !taken && found.from.version_id !== batch.version.id}<p class="note">
        The batch has another version since; process it once more.
      </p>{/if}
    {#each found.new_notices as n, k (k)}<p class="note att">New notice: {n}</p>{/each}
    {#each found.ended_notices as n, k (k)}<p class="note">Would go: {n}</p>{/each}
    {#if found.moved.length > 0}
      <table>
        <thead
          ><tr
            ><th class="l">Sample</th><th class="l">Compound</th><th>{same ? "Present" : `Version ${found.from.number}`}</th><th
              >{same ? "Again" : `Version ${found.to.number}`}</th
            ><th>Change</th></tr
          ></thead
        >
        <tbody>
          {#each found.moved as m, k (k)}
            <tr
              ><td class="l">{m.sample}</td><td class="l">{m.compound}</td><td>{significant(m.before, 4)}</td><td
                >{significant(m.after, 4)}</td
              ><td class:att={Math.abs(m.percent ?? 100) > 5}
                >{m.percent === null
                  ? m.after === null
                    ? "gone"
                    : "new"
                  : `${signed(m.percent, Math.abs(m.percent) < 0.01 ? 5 : 2)} %`}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
      {#if found.moved_in_all > found.moved.length}<p class="note">and {found.moved_in_all - found.moved.length} smaller ones</p>{/if}
    {/if}
  {/if}
</section>

<style>
  section {
    max-width: 760px;
    margin-bottom: 22px;
  }
  .ask {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    align-items: baseline;
    margin: 6px 0;
  }
  select {
    max-width: 360px;
  }
  .pick {
    columns: 3 220px;
    max-height: 220px;
    overflow: auto;
  }
  .pick label {
    display: flex;
    min-height: 24px;
    align-items: center;
    break-inside: avoid;
  }
  .run {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  .line {
    width: 220px;
    height: 4px;
    background: linear-gradient(var(--ai) 0 0) 0 0 / calc(var(--done) * 100%) 100% no-repeat var(--mist-1);
  }
  .btn + .lnk {
    margin-left: 10px;
  }
  table {
    margin: 8px 0;
  }
</style>
