<script lang="ts">
  // What a field is here, what it uses and what uses it; keeping, handing on.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, Problem, type Batch, type LabField } from "../../api/client";
  import { ask, queries } from "../../state/ask";
  import { who } from "../../state/who.svelte";
  import { fields } from "./fields.svelte";

  let { batch }: { batch: Batch } = $props();
  const at = $derived(fields.state);
  const sets = createQuery(() => ask.fieldSets(batch.id));
  let name = $state("");
  /** The name of a set that is there already, which is replaced when it is kept once more. */
  let there = $state("");
  async function change(what: () => Promise<unknown>) {
    fields.trouble = "";
    try {
      await who.sure();
      await what();
      await queries.invalidateQueries({ queryKey: ["fieldsets"] });
      await queries.invalidateQueries({ queryKey: ["record", batch.id] });
      return true;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      fields.trouble = error.message;
      return false;
    }
  }
  async function keepSet() {
    const called = name.trim();
    const instead = there === called;
    if (!instead && sets.data?.some((s) => s.name === called)) {
      there = called;
      return;
    }
    const kept = await change(() =>
      answer(
        api.POST("/api/batches/{batch}/fields/sets", {
          params: { path: { batch: batch.id } },
          body: { name: called, fields: fields.fields, instead },
        }),
      ),
    );
    if (kept) name = there = "";
  }
  const away = (called: string) =>
    change(() =>
      answer(api.POST("/api/batches/{batch}/fields/sets/away", { params: { path: { batch: batch.id } }, body: { name: called } })),
    );
  function handOn() {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(
      new Blob([JSON.stringify({ form: 1, fields: fields.fields }, null, 2) + "\n"], { type: "application/json" }),
    );
    link.download = "fields.json";
    link.click();
    URL.revokeObjectURL(link.href);
  }
  async function bring(e: Event) {
    const input = e.currentTarget as HTMLInputElement;
    const file = input.files?.[0];
    input.value = "";
    if (!file) return;
    try {
      const read = JSON.parse(await file.text()) as { fields?: LabField[] };
      if (!Array.isArray(read.fields)) throw new Error("it holds no fields");
      fields.bring(read.fields);
    } catch (error) {
      fields.trouble = `${file.name}: ${(error as Error).message}`;
    }
  }
</script>

{#if fields.field}
  <section aria-label="Here">
    <h2>{fields.field.name} <span class="r">here</span></h2>
    {#if at?.problem}<p class="att">{at.problem.says}</p>
    {:else}<p class="value">{at?.here || "–"}</p>
      {#if at?.why}<p class="note">{at.why}</p>{/if}{/if}
  </section>
  <section aria-label="Uses">
    <h2>Uses</h2>
    <p class="note">{at?.uses.length ? at.uses.join(", ") : "nothing of the register"}</p>
  </section>
  <section aria-label="Used by">
    <h2>Used by</h2>
    <p class="note">
      {at?.used_by.length ? `${at.used_by.join(", ")}. Another short name is written there too.` : "no other field"}
    </p>
    <p class="note">It stands in the matrix, the summary, CSV and JSON; reports take it where a layout asks for it.</p>
  </section>
{/if}
<section aria-label="Keep">
  <h2>Keep</h2>
  <p class="note">Fields are part of the method: kept, they make version {batch.version.number + 1}.</p>
  <p class="acts">
    <button
      class="btn pri"
      disabled={!fields.dirty || fields.wrong}
      title="Keeps all fields as a version of the method"
      onclick={() => void fields.keep(batch)}>Keep <kbd>Enter</kbd></button
    >
    <button class="btn" disabled={!fields.dirty} title="Goes back to what is kept" onclick={() => fields.discard()}>Discard</button>
    {#if fields.field}<button class="lnk" title="Takes it away (Delete)" onclick={() => fields.remove()}>take away</button>{/if}
  </p>
  <p class="acts">
    <button class="lnk" title="All fields as a JSON file" onclick={handOn}>hand them on</button>
    <label class="lnk" title="Reads fields from a JSON file"
      >bring some in<input type="file" accept=".json,application/json" onchange={(e) => void bring(e)} /></label
    >
  </p>
</section>
<section aria-label="Sets of the study">
  <h2>Sets <span class="r">kept by name in the study</span></h2>
  {#each sets.data ?? [] as s (s.name)}
    <p class="set">
      <button
        class="lnk"
        title="Brings in those that are not here yet: {s.fields.map((f) => f.name).join(', ')}"
        onclick={() => fields.bring(s.fields)}>{s.name}</button
      >
      <span class="mut">{s.fields.length}, {s.saved_by}</span>
      <button
        class="mut"
        title="Takes the set away; fields that were brought in stay"
        aria-label="Take {s.name} away"
        onclick={() => void away(s.name)}>×</button
      >
    </p>
  {:else}<p class="note">None yet. A set serves other methods of the study too.</p>{/each}
  {#if fields.fields.length}<form
      class="acts"
      onsubmit={(e) => {
        e.preventDefault();
        if (name.trim()) void keepSet();
      }}
    >
      <input class="field" bind:value={name} maxlength="80" title="The name of the set" placeholder="keep these as …" />
      <button class="btn" disabled={!name.trim()} title="Keeps the fields that stand here as a set"
        >{there && there === name.trim() ? "Replace" : "Keep"}</button
      >
    </form>{/if}
  {#if there && there === name.trim()}<p class="note">There is a set of this name; once more replaces it.</p>{/if}
</section>

<style>
  .set {
    display: grid;
    grid-template-columns: 1fr auto 16px;
    gap: 8px;
    font-size: 12.5px;
    line-height: 23px;
  }
  .set .lnk {
    justify-self: start;
  }
  form .field {
    flex: 1;
    min-width: 0;
  }
  .value {
    font-family: var(--f-read);
    font-size: 22px;
  }
  .acts {
    display: flex;
    gap: 14px;
    align-items: baseline;
    margin: 8px 0;
    font-size: 12.5px;
  }
  input[type="file"] {
    display: none;
  }
</style>
