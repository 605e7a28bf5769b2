<script lang="ts">
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api } from "../api/client";
  import { ask, queries } from "../state/desk.svelte";
  import { place } from "../state/place.svelte";
  import Logo from "./Logo.svelte";

  let { problem }: { problem: string } = $props();
  const studies = createQuery(() => ask.studies());
  let study = $state("");
  let name = $state("");
  let trouble = $state("");

  async function start(e: SubmitEvent) {
    e.preventDefault();
    try {
      const { id } = await answer(api.POST("/api/batches", { body: { study, name } }));
      await queries.invalidateQueries({ queryKey: ["studies"] });
      place.go({ batch: id, station: "batch", query: { i: "", c: "" } });
    } catch (error) {
      trouble = (error as Error).message;
    }
  }
</script>

<main>
  <h1>
    <Logo width={45} />
    Yugen
  </h1>
  {#if problem}<p class="att" role="alert">{problem}</p>{/if}
  <h2>Studies</h2>
  {#if studies.isError}
    <p class="att" role="alert">
      {studies.error.message} <button class="lnk" onclick={() => studies.refetch()}>Try again</button>
    </p>
  {:else if studies.isPending}
    <p class="note">Reading the studies …</p>
  {:else}
    {#each studies.data as s (s.id)}
      <p class="study">{s.name}</p>
      {#each s.batches as b (b.id)}
        <a
          class="batch"
          href="/{b.id}/batch"
          onclick={(e) => (e.preventDefault(), place.go({ batch: b.id, station: "batch", query: { i: "", c: "" } }))}
        >
          <span>{b.name}</span><span class="mut">{b.injections} injections</span>
        </a>
      {/each}
    {:else}
      <p class="note">No study yet. Start the first one here.</p>
    {/each}
  {/if}
  <form onsubmit={start}>
    <h2>New batch</h2>
    <label>Study <input class="field" bind:value={study} list="studies" required maxlength="200" /></label>
    <datalist id="studies"
      >{#each studies.data ?? [] as s (s.id)}<option value={s.name}></option>{/each}</datalist
    >
    <label>Batch <input class="field" bind:value={name} required maxlength="200" /></label>
    {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
    <button class="btn pri">Start</button>
  </form>
</main>

<style>
  main {
    width: 460px;
    margin: 9vh auto 0;
    display: grid;
    gap: 6px;
  }
  h1 {
    font-size: 30px;
    display: flex;
    gap: 12px;
    align-items: center;
    margin-bottom: 18px;
  }
  .study {
    font: 400 15px var(--f-read);
    margin-top: 6px;
  }
  .batch {
    display: flex;
    justify-content: space-between;
    padding: 4px 0;
    border-bottom: 1px solid var(--mist-1);
  }
  form {
    margin-top: 24px;
    display: grid;
    gap: 8px;
    justify-items: start;
  }
  label {
    display: grid;
    grid-template-columns: 60px 300px;
    align-items: baseline;
  }
</style>
