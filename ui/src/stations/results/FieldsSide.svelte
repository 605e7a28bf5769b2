<script lang="ts">
  // What a field is here, what it uses and what uses it; keeping, handing on.
  import type { Batch, LabField } from "../../api/client";
  import { fields } from "./fields.svelte";

  let { batch }: { batch: Batch } = $props();
  const at = $derived(fields.state);
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

<style>
  .value {
    font-family: var(--serif, inherit);
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
