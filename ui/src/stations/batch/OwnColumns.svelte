<script lang="ts">
  // The columns that the laboratory adds to its run lists: lot, project, client. They belong to the study, and can be filled from names by a pattern.
  import { answer, api, Problem, type Batch, type OwnColumn } from "../../api/client";
  import { count, missing } from "../../look/number";
  import { desk } from "../../state/desk.svelte";

  let { batch }: { batch: Batch } = $props();
  const list = $derived(batch.own_columns);
  const kinds: [OwnColumn["kind"], string][] = [
    ["text", "text"],
    ["number", "number"],
    ["date", "date"],
    ["choice", "choice"],
  ];
  let adding = $state(false);
  let name = $state("");
  let kind = $state<OwnColumn["kind"]>("text");
  let unit = $state("");
  let options = $state("");
  async function add(e: SubmitEvent) {
    e.preventDefault();
    const fresh: OwnColumn = {
      id: "",
      name: name.trim(),
      kind,
      ...(unit.trim() ? { unit: unit.trim() } : {}),
      ...(kind === "choice"
        ? {
            options: options
              .split(/[,;]/)
              .map((o) => o.trim())
              .filter(Boolean),
          }
        : {}),
    };
    if (await desk.setColumns([...list, fresh])) {
      adding = false;
      name = unit = options = "";
    }
  }

  let filling = $state("");
  let pattern = $state("");
  let of = $state<"file" | "sample">("file");
  type Found = { injection_id: string; name: string; value: string; problem?: string };
  let found = $state<Found[]>([]);
  let trouble = $state("");
  const example = $derived(batch.injections.find((i) => i.role === "sample")?.file_name ?? batch.injections[0]?.file_name ?? "");
  $effect(() => {
    const body = { pattern, field: `own:${filling}`, of };
    if (!filling || !pattern.includes("{}")) {
      found = [];
      trouble = "";
      return;
    }
    const wait = setTimeout(() => {
      answer(api.POST("/api/batches/{batch}/columns/pattern", { params: { path: { batch: batch.id } }, body }))
        .then((got) => ((found = got), (trouble = "")))
        .catch((e) => ((found = []), (trouble = e instanceof Problem ? e.message : "")));
    }, 150);
    return () => clearTimeout(wait);
  });
  const hits = $derived(found.filter((f) => f.value && !f.problem));
  async function fill() {
    if (await desk.setEntries(hits.map((f) => ({ injection_id: f.injection_id, field: `own:${filling}`, value: f.value })))) {
      filling = pattern = "";
    }
  }
</script>

<section aria-label="Own columns">
  <h2>
    Own columns <span class="r"
      ><button class="lnk" aria-expanded={adding} title="Adds a column to all run lists of the study" onclick={() => (adding = !adding)}
        >add one</button
      ></span
    >
  </h2>
  {#each list as c (c.id)}
    <p class="row">
      <span class:mut={c.hidden}>{c.name}{c.unit ? `, ${c.unit}` : ""}</span>
      <span class="mut">{c.kind}</span>
      <button class="lnk" title="Fills it from the names of files or samples" onclick={() => (filling = filling === c.id ? "" : c.id)}
        >fill</button
      >
      <button
        class="lnk"
        title={c.hidden ? "Shows the column in run lists" : "Takes the column out of sight; what it holds stays"}
        onclick={() => desk.setColumns(list.map((o) => (o.id === c.id ? { ...o, hidden: !o.hidden } : o)))}
        >{c.hidden ? "show" : "hide"}</button
      >
      <button
        class="mut"
        aria-label="Take the column {c.name} away"
        title="Takes the column away; what lines hold of it comes back with it"
        onclick={() => desk.setColumns(list.filter((o) => o.id !== c.id))}>×</button
      >
    </p>
    {#if filling === c.id}
      <div class="fill">
        <label
          >From the name of the <select class="field" title="Which name is read" bind:value={of}
            ><option value="file">file</option><option value="sample">sample</option></select
          ></label
        >
        <input
          class="field"
          aria-label="Pattern"
          title={"{} is what is taken, * is anything"}
          placeholder={`e.g. oolong_{}C_* for ${example}`}
          bind:value={pattern}
        />
        {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
        {#if found.length > 0}
          <p class="note">{hits.length} of {count(found.length, "name")}:</p>
          {#each found.filter((f) => f.value).slice(0, 5) as f (f.injection_id)}
            <p class="row eg"><span class="mut">{f.name}</span><b class:att={f.problem}>{f.value || missing}</b></p>
            {#if f.problem}<p class="att">{f.problem}</p>{/if}
          {/each}
        {/if}
        <button class="btn" disabled={hits.length === 0} title="Sets the column where the pattern takes something" onclick={fill}
          >Fill {hits.length}</button
        >
      </div>
    {/if}
  {:else}{#if !adding}<p class="note">None yet: lot, project, client …</p>{/if}{/each}
  {#if adding}
    <form class="fill" onsubmit={add}>
      <!-- svelte-ignore a11y_autofocus -->
      <input
        class="field"
        aria-label="Name of the column"
        title="What the column is called"
        placeholder="name"
        autofocus
        bind:value={name}
      />
      <label
        >holds <select class="field" title="What the column holds" bind:value={kind}
          >{#each kinds as [k, word] (k)}<option value={k}>{word}</option>{/each}</select
        ></label
      >
      {#if kind === "number"}<input
          class="field"
          aria-label="Unit"
          title="The unit of its numbers"
          placeholder="unit"
          bind:value={unit}
        />{/if}
      {#if kind === "choice"}<input
          class="field"
          aria-label="Choices"
          title="What can be chosen, with commas between"
          placeholder="light, medium, dark"
          bind:value={options}
        />{/if}
      <button class="btn" disabled={!name.trim()} title="Adds the column to all run lists of the study">Add</button>
    </form>
  {/if}
</section>

<style>
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto auto auto 14px;
    gap: 8px;
    align-items: center;
    font-size: 12.5px;
    min-height: 25px;
    border-bottom: 1px solid var(--mist-1);
  }
  .row.eg {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .row span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .fill {
    display: grid;
    gap: 5px;
    padding: 6px 0 8px;
    font-size: 12.5px;
    justify-items: start;
  }
  .fill > .field {
    width: 100%;
  }
</style>
