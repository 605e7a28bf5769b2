<script lang="ts">
  // The page itself: what it is made for, its paper and margins; keeping, copying, handing on.
  import type { Batch, Layout } from "../../../api/client";
  import { answer, api } from "../../../api/client";
  import Choice from "../../../parts/Choice.svelte";
  import { queries } from "../../../state/ask";
  import { desk } from "../../../state/desk.svelte";
  import { place } from "../../../state/place.svelte";
  import { eachWords } from "./blocks";
  import { draft } from "./draft.svelte";

  let { batch, keep }: { batch: Batch; keep: () => void } = $props();
  const layout = $derived(draft.layout as Layout);
  let copy = $state("");
  const margins = ["left", "right", "top", "bottom"] as const;
  const number = (e: Event) => Number((e.currentTarget as HTMLInputElement).value);

  async function keepAs() {
    const done = await draft.keep(copy.trim());
    if (!done) return;
    copy = "";
    desk.done = `${done.layout.name} is kept`;
    place.go({ query: { layout: done.id } }, false);
  }
  function handOn() {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([JSON.stringify(layout, null, 2) + "\n"], { type: "application/json" }));
    link.download = `${layout.name}.json`;
    link.click();
    URL.revokeObjectURL(link.href);
  }
  async function bring(e: Event) {
    const field = e.currentTarget as HTMLInputElement;
    const file = field.files?.[0];
    field.value = "";
    if (!file) return;
    try {
      const read = JSON.parse(await file.text()) as Layout;
      const kept = await answer(
        api.POST("/api/batches/{batch}/layouts", { params: { path: { batch: batch.id } }, body: { layout: read } }),
      );
      await queries.invalidateQueries({ queryKey: ["layouts", batch.id] });
      draft.discard();
      place.go({ query: { layout: kept.id } }, false);
    } catch (error) {
      draft.trouble = `${file.name}: ${(error as Error).message}`;
    }
  }
  async function away() {
    if (!draft.kept || draft.kept.shipped) return;
    try {
      await answer(api.DELETE("/api/batches/{batch}/layouts/{layout}", { params: { path: { batch: batch.id, layout: draft.kept.id } } }));
      draft.discard();
      await queries.invalidateQueries({ queryKey: ["layouts", batch.id] });
      place.go({ query: { layout: "" } }, false);
    } catch (error) {
      draft.trouble = (error as Error).message;
    }
  }
</script>

<section aria-label="The page">
  <h2>The page</h2>
  {#if !draft.kept?.shipped}<label class="row"
      ><span>Name</span><input
        class="field"
        value={layout.name}
        title="What people call it"
        onchange={(e) => draft.page({ name: e.currentTarget.value.trim() || layout.name })}
      /></label
    >{/if}
  <div class="row">
    <span>Made for each</span><Choice
      label="Made for each"
      options={eachWords}
      value={layout.each}
      choose={(each) => draft.page({ each })}
    />
  </div>
  <div class="row">
    <span>Paper</span><Choice
      label="Paper"
      options={[
        ["A4", "A4"],
        ["Letter", "Letter"],
      ]}
      value={layout.paper}
      choose={(paper) => draft.page({ paper })}
    />
  </div>
  <div class="row">
    <span>Stands</span><Choice
      label="Orientation"
      options={[
        ["upright", "upright"],
        ["lying", "lying"],
      ]}
      value={layout.landscape ? "lying" : "upright"}
      choose={(v) => draft.page({ landscape: v === "lying" })}
    />
  </div>
  <div class="row">
    <span>Margins, mm</span><span class="four"
      >{#each margins as m (m)}<label
          >{m}<input
            class="field num"
            inputmode="decimal"
            title="Margin {m}, 5 to 80 mm"
            value={layout.margin_mm[m]}
            onchange={(e) => draft.page({ margin_mm: { ...layout.margin_mm, [m]: Math.max(5, Math.min(80, number(e) || 20)) } })}
          /></label
        >{/each}</span
    >
  </div>
</section>
<section aria-label="Keep">
  <h2>Keep</h2>
  <p class="note">Reports that were made by an earlier version stay as they are.</p>
  <div class="acts">
    {#if !draft.kept?.shipped}<button class="btn pri" disabled={!draft.dirty || draft.busy} title="Keeps what is on the page" onclick={keep}
        >Keep as version {(draft.kept?.version ?? 0) + 1}</button
      >{/if}
    <button class="btn" disabled={!draft.dirty} title="Goes back to what is kept" onclick={() => draft.discard()}>Discard</button>
  </div>
  <form
    class="row"
    onsubmit={(e) => {
      e.preventDefault();
      void keepAs();
    }}
  >
    <span>As another</span><span class="name"
      ><input class="field" bind:value={copy} placeholder="its name" aria-label="Name of the copy" maxlength="200" /><button
        class="btn"
        title="Keeps it as a layout of its own"
        disabled={!copy.trim() || draft.busy}>Keep</button
      ></span
    >
  </form>
  <p class="hand">
    <button class="lnk" title="As a JSON file, for another study or laboratory" onclick={handOn}>hand it on</button>
    <label class="lnk" title="Reads a layout from a JSON file"
      >bring one in<input type="file" accept=".json,application/json" onchange={(e) => void bring(e)} /></label
    >
    {#if !draft.kept?.shipped}<button class="lnk" title="Takes it off the list; reports made by it stay" onclick={() => void away()}
        >put away</button
      >{/if}
    <button
      class="lnk to"
      title="Makes reports by it"
      onclick={() => place.go({ query: { face: "many", layout: draft.kept?.id ?? "" } }, false)}>make many →</button
    >
  </p>
</section>

<style>
  .row {
    display: grid;
    grid-template-columns: 96px minmax(0, 1fr);
    align-items: baseline;
    gap: 8px;
    font-size: 12.5px;
    margin: 6px 0;
  }
  .row > span:first-child {
    color: var(--ink-2);
  }
  .four {
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 8px;
  }
  .four label {
    font-size: 11.5px;
    color: var(--ink-3);
  }
  .four input {
    width: 100%;
  }
  .acts,
  .hand,
  .name {
    display: flex;
    gap: 10px;
    align-items: baseline;
    margin: 6px 0;
  }
  .name {
    margin: 0;
  }
  .name input {
    min-width: 0;
    flex: 1;
  }
  .hand {
    font-size: 12.5px;
    gap: 14px;
  }
  .to {
    margin-left: auto;
  }
  input[type="file"] {
    display: none;
  }
</style>
