<script lang="ts">
  // A batch without chromatograms: levels, responses and unknowns from a spreadsheet. What was understood is shown before anything is made.
  import { answer, api, type ReadingsTable, type Study } from "../../api/client";
  import { missing } from "../../look/number";
  import { queries } from "../../state/ask";
  import { place } from "../../state/place.svelte";

  let { studies }: { studies: Study[] } = $props();
  let study = $state("");
  let name = $state("");
  let compound = $state("");
  let unit = $state("");
  let text = $state("");
  let read = $state<ReadingsTable | null>(null);
  let trouble = $state("");
  const example = "Conc. (mg/L)\tArea\tArea\n1\t10.2\t10.4\n5\t50.1\t49.8\n20\t201\t203\nPond water\t73.4\t72.9";
  const columns = $derived(Math.max(0, ...(read?.rows ?? []).map((r) => r.responses.length)));

  let asked = 0;
  async function look() {
    trouble = "";
    const turn = ++asked;
    if (text.trim() === "") {
      read = null;
      return;
    }
    try {
      const table = await answer(api.POST("/api/readings/look", { body: { text } }));
      if (turn === asked) read = table;
    } catch (error) {
      if (turn !== asked) return;
      read = null;
      trouble = (error as Error).message;
    }
  }
  async function make(e: SubmitEvent) {
    e.preventDefault();
    try {
      const { ids } = await answer(api.POST("/api/readings", { body: { study, name, compound, unit, text } }));
      await queries.invalidateQueries({ queryKey: ["studies"] });
      await queries.invalidateQueries({ queryKey: ["methods"] });
      place.go({ batch: ids[0]!, station: "curves", query: { i: "", c: "", face: "list" } });
    } catch (error) {
      trouble = (error as Error).message;
    }
  }
</script>

<form onsubmit={make}>
  <textarea
    class="field"
    aria-label="Table of readings"
    rows="6"
    bind:value={text}
    oninput={look}
    placeholder={`Paste from a spreadsheet: levels in one column, responses in others, unknowns without a level.\n\n${example}`}></textarea>
  {#if read}
    <p class="note">Read as: {read.read.join("; ")}.</p>
    <div class="seen">
      <table aria-label="What was read">
        <thead
          ><tr
            ><th class="l">Name</th><th>Level{read.unit ? `, ${read.unit}` : ""}</th>{#each { length: columns } as _, k (k)}<th
                >{read.days.length ? read.days[read.rows[0]?.responses[k]?.day ?? 0] : columns > 1 ? k + 1 : "Response"}</th
              >{/each}</tr
          ></thead
        >
        <tbody>
          {#each read.rows.slice(0, 60) as r (r.line)}
            <tr
              ><td class="l">{r.name}</td><td>{r.level ?? missing}</td>{#each { length: columns } as _, k (k)}<td
                  >{r.responses[k]?.value ?? missing}</td
                >{/each}</tr
            >
          {/each}
        </tbody>
      </table>
    </div>
    <div class="asked">
      <label>Measured <input class="field" bind:value={compound} required maxlength="200" placeholder="Caffeine" /></label>
      {#if !read.unit}<label>Levels in <input class="field" bind:value={unit} required maxlength="20" placeholder="mg/L" /></label>{/if}
      <label>Study <input class="field" bind:value={study} list="typed-studies" required maxlength="200" /></label>
      <datalist id="typed-studies"
        >{#each studies as s (s.id)}<option value={s.name}></option>{/each}</datalist
      >
      <label>Batch <input class="field" bind:value={name} required maxlength="200" /></label>
    </div>
    {#if read.days.length > 1}<p class="note">
        Each day becomes a batch of its own, by one method, so that curves and limits stand side by side over the days.
      </p>{/if}
  {/if}
  {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
  {#if read}<button class="btn pri">Make the curve</button>{/if}
</form>

<style>
  form {
    display: grid;
    gap: 9px;
    justify-items: start;
  }
  textarea {
    width: 100%;
    height: auto;
    border: 1.5px dashed var(--mist-3);
    padding: 8px;
    font: 400 12.5px/1.45 var(--f-mono);
    white-space: pre;
  }
  .seen {
    max-height: 232px;
    overflow: auto;
    width: 100%;
  }
  table {
    width: auto;
    min-width: 320px;
  }
  .asked {
    display: grid;
    gap: 8px;
  }
  .asked label {
    display: grid;
    grid-template-columns: 80px minmax(0, 300px);
    align-items: baseline;
  }
</style>
