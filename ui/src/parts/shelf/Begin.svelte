<script lang="ts">
  // An empty shelf: four equal ways to begin. Each says what it does and what happens next, and each can be undone as a whole.
  import { answer, api } from "../../api/client";
  import { queries } from "../../state/ask";
  import { place } from "../../state/place.svelte";
  import { keys } from "../../state/keys.svelte";

  let {
    choose,
    table,
  }: { /** Opens the chooser of files. */ choose: () => void; /** Goes to the field for a table. */ table: () => void } = $props();
  let making = $state(false);
  let trouble = $state("");
  async function demo() {
    if (making) return;
    making = true;
    trouble = "";
    try {
      const { id } = await answer(api.POST("/api/demo"));
      await queries.invalidateQueries({ queryKey: ["studies"] });
      place.go({ batch: id, station: "batch", query: { i: "", c: "", face: "" } });
    } catch (error) {
      trouble = (error as Error).message;
    }
    making = false;
  }
  $effect(() => keys({ a: choose, d: () => void demo(), t: table }));
  const run =
    "M0 61H24L28 58L32 61H60L66 44L73 61H88L93 56L98 61H118C124 61 126 8 130 8S138 61 146 61H156C161 61 162 30 166 30S172 61 178 61H204L210 40L217 61H300";
  const line = [20, 62, 118, 180, 244];
  const rows = [18, 36, 54];
</script>

{#snippet steps(list: string[])}
  <p class="note what">What happens</p>
  <ol>
    {#each list as text, i (text)}<li><span>{i + 1}</span>{text}</li>{/each}
  </ol>
{/snippet}

<div class="ways">
  <section aria-label="Your files">
    <h2>Your files</h2>
    <svg viewBox="0 0 300 72" aria-hidden="true"
      ><path d="{run}V62H0Z" fill="var(--w-ai-a)" /><path d={run} fill="none" stroke="var(--ink)" stroke-width="1.1" /></svg
    >
    <p>netCDF (ANDI), mzML, JCAMP-DX and delimited text, from one file to a few thousand. They are copied in and never changed.</p>
    <p class="do">
      <button class="btn pri" title="Chooses files for a new batch" onclick={choose}>Choose files <kbd>A</kbd></button>
      <span class="note">or drop them anywhere</span>
    </p>
    {@render steps([
      "Each file is read; one that cannot be is refused with the place and the reason, and stops no other.",
      "Roles and levels are read from the names, peaks found, what all share is proposed.",
      "You keep or change it where it stands; a reading and a page come from it.",
    ])}
  </section>
  <section aria-label="Run the bench">
    <h2>Run the bench</h2>
    <svg viewBox="0 0 300 72" aria-hidden="true"
      ><path d={run} fill="none" stroke="var(--ink)" stroke-width="1.1" /><path d="M178 8V66" stroke="var(--ai)" stroke-width="1.3" /></svg
    >
    <p>Instruments at hand, or stand-ins for them: a list is given, measured, and taken into a batch run by run.</p>
    <p class="do"><button class="btn" title="Goes to the instruments" onclick={() => place.home("bench")}>Run the bench</button></p>
    {@render steps([
      "Choose an instrument, write or paste its list, say how it ends.",
      "It gets ready; what only you can do is asked of you.",
      "Each run is on disk as it is measured, and processed as it ends.",
    ])}
  </section>
  <section aria-label="A table of readings">
    <h2>A table of readings</h2>
    <svg viewBox="0 0 300 72" aria-hidden="true"
      ><path d="M10 62H290M10 62V6" stroke="var(--mist-3)" /><path
        d="M12 60L282 10"
        stroke="var(--ai)"
        stroke-width="1.3"
      />{#each line as x (x)}<circle cx={x} cy={60 - (x - 12) * 0.185} r="3.6" fill="var(--ai)" />{/each}</svg
    >
    <p>Areas or absorbances that were read elsewhere: levels and readings pasted from a spreadsheet, without chromatograms.</p>
    <p class="do"><button class="btn" title="Goes to the field for a pasted table" onclick={table}>Paste a table <kbd>T</kbd></button></p>
    {@render steps([
      "What each column is taken for is shown before anything is kept.",
      "Curves, limits and amounts come from them as from chromatograms.",
      "Days in the table become batches of their own, side by side.",
    ])}
  </section>
  <section aria-label="The demo">
    <h2>The demo</h2>
    <svg viewBox="0 0 300 72" aria-hidden="true"
      >{#each rows as y (y)}<path
          d={Array.from({ length: 24 }, (_, k) => `M${k * 12.5} ${y}l4 0l1.5 -${4 + ((k * y) % 11)}l2 ${4 + ((k * y) % 11)}h5`).join("")}
          fill="none"
          stroke="var(--ink-3)"
        />{/each}</svg
    >
    <p>A small tea laboratory, all made up: five studies, nine batches, with faults left in to be found.</p>
    <p class="do">
      <button class="btn" title="Makes the demo's studies and opens the first batch" disabled={making} onclick={demo}
        >{making ? "Making the demo …" : "Open the demo"} <kbd>D</kbd></button
      >
      {#if making}<span class="note">about a minute</span>{/if}
    </p>
    {@render steps([
      "Its studies stand on this shelf, beside your own.",
      "It opens at a green tea assay with notices to settle.",
      "Its batches are put away one by one; your own work is not touched by it.",
    ])}
    {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
  </section>
</div>

<style>
  .ways {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(250px, 1fr));
    gap: 24px 28px;
  }
  svg {
    width: 100%;
    height: 84px;
    border-bottom: 1px solid var(--mist-1);
    margin: 8px 0 10px;
  }
  .do {
    display: flex;
    align-items: baseline;
    gap: 12px;
    margin: 12px 0;
  }
  .what {
    padding-bottom: 3px;
    border-bottom: 1px solid var(--mist-2);
  }
  li {
    display: grid;
    grid-template-columns: 18px 1fr;
    padding: 5px 0;
    border-bottom: 1px solid var(--mist-1);
    font-size: 12.5px;
  }
  li span {
    color: var(--ink-3);
  }
</style>
