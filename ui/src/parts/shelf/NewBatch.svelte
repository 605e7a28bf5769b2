<script lang="ts">
  // A batch for files: in which study, under which name, and by which method.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, type Study } from "../../api/client";
  import { ask, queries } from "../../state/ask";
  import { count } from "../../look/number";
  import { place } from "../../state/place.svelte";
  import { who } from "../../state/who.svelte";
  import { intake } from "../../stations/batch/intake.svelte";

  let { studies }: { studies: Study[] } = $props();
  const methods = createQuery(() => ask.methods());
  let study = $state("");
  let name = $state("");
  let method = $state("");
  let version = $state("");
  let copy = $state(false);
  let why = $state("");
  let files = $state<File[]>([]);
  let list = $state("");
  const lines = $derived(Math.max(0, list.trim().split(/\r?\n/).length - 1));
  let trouble = $state("");
  const chosen = $derived(methods.data?.find((m) => m.id === method));
  // The approved version is what a batch uses, unless somebody says why not.
  const approved = $derived(chosen?.versions.find((v) => v.approved));
  const used = $derived(chosen?.versions.find((v) => v.id === version) ?? approved ?? chosen?.versions[0]);
  const day = (t: string) => new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });

  async function start(e: SubmitEvent) {
    e.preventDefault();
    await who.sure();
    try {
      const { id } = await answer(
        api.POST("/api/batches", {
          body: { study, name, ...(chosen ? { version_id: used!.id, copy, ...(why.trim() ? { reason: why.trim() } : {}) } : {}) },
        }),
      );
      // A run list that cannot be read leaves the batch empty; started again by the same name it is found.
      if (list.trim()) await answer(api.PUT("/api/batches/{batch}/waiting", { params: { path: { batch: id } }, body: { text: list } }));
      await queries.invalidateQueries({ queryKey: ["studies"] });
      if (files.length > 0) {
        intake.clear();
        intake.add(id, files);
      }
      await queries.invalidateQueries({ queryKey: ["methods"] });
      place.go({ batch: id, station: "batch", query: { i: "", c: "", face: "list" } });
    } catch (error) {
      trouble = (error as Error).message;
    }
  }
</script>

<form onsubmit={start}>
  <label>Study <input class="field" bind:value={study} list="studies" required maxlength="200" /></label>
  <datalist id="studies"
    >{#each studies as s (s.id)}<option value={s.name}></option>{/each}</datalist
  >
  <label>Batch <input class="field" bind:value={name} required maxlength="200" /></label>
  <label
    >Method
    <select class="field" aria-label="Method" bind:value={method} onchange={() => (version = "")}>
      <option value="">a new one</option>
      {#each methods.data ?? [] as m (m.id)}<option value={m.id}>{m.name} — {m.study}</option>{/each}
    </select>
  </label>
  {#if chosen}
    <label
      >Version
      <select class="field" aria-label="Version" bind:value={version}>
        {#each chosen.versions as v (v.id)}<option value={v.id === (approved ?? chosen.versions[0])!.id ? "" : v.id}
            >{v.number}, {v.approved ? "approved" : day(v.saved_at)}: {v.reason}</option
          >{/each}
      </select>
    </label>
    {#if approved && used && used.id !== approved.id && !copy}
      <label
        >Why not {approved.number}
        <input class="field" title="Why a version is used that nobody has approved" bind:value={why} required maxlength="300" /></label
      >
    {/if}
    <p class="how">
      <label class="chk" title="The method becomes one of this study, apart from the others"
        ><input type="checkbox" bind:checked={copy} />start from a copy</label
      >
      <span class="note"
        >{copy
          ? "The copy belongs to this study; what is changed in it is nothing to the others."
          : `${chosen.batches} ${chosen.batches === 1 ? "batch uses" : "batches use"} this method. Each stays with its version when a new one is saved.`}</span
      >
    </p>
  {/if}
  <label
    >Files <span class="files"
      ><span class="lnk">{files.length > 0 ? `${count(files.length, "file")} chosen` : "choose them"}</span><input
        type="file"
        multiple
        title="Taken in as soon as the batch is there"
        onchange={(e) => (files = [...(e.currentTarget.files ?? [])])}
      /></span
    ></label
  >
  <label
    >Run list <textarea
      class="field"
      rows="2"
      title="Pasted from a spreadsheet, with a line of headings; its lines find their files by file, vial or name"
      placeholder="pasted: name, role, level, vial …"
      bind:value={list}></textarea></label
  >
  {#if files.length > 0 || lines > 0}<p class="note how">
      {[files.length > 0 ? count(files.length, "file") : "", lines > 0 ? `${count(lines, "row")} of a run list` : ""]
        .filter(Boolean)
        .join(", ")}
    </p>{/if}
  {#if methods.isError}<p class="att" role="alert">{methods.error.message}</p>{/if}
  {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
  <button class="btn pri">Start</button>
</form>

<style>
  .files {
    position: relative;
    min-height: 26px;
  }
  .files .lnk {
    line-height: 26px;
  }
  .files:focus-within {
    outline: 2px solid var(--ai);
  }
  /* It is pressed, and reached by keys; its words are ours. */
  .files input {
    position: absolute;
    inset: 0;
    width: 100%;
    opacity: 0;
    cursor: pointer;
  }
  form {
    display: grid;
    gap: 9px;
    justify-items: start;
  }
  form > label {
    display: grid;
    grid-template-columns: 70px minmax(0, 330px);
    align-items: baseline;
  }
  .how {
    display: grid;
    gap: 2px;
    padding-left: 70px;
  }
</style>
