<script lang="ts">
  // A list for an instrument: into which batch, which rows, when it begins and how it ends.
  import { untrack } from "svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, type BenchPost } from "../api/client";
  import { count } from "../look/number";
  import { ask, queries } from "../state/ask";
  import { bench } from "./bench.svelte";
  import { empty, examples, fields, fillDown, pasted, series, studyOf, type Field } from "./newlist";

  let { post }: { post: BenchPost } = $props();
  const studies = createQuery(() => ask.studies());
  const methods = createQuery(() => ask.methods());
  const draft = untrack(() => bench.write(post.id));
  let trouble = $state("");
  const open = $derived(
    (studies.data ?? []).flatMap((s) => s.batches.filter((b) => b.signing !== "signed" && !b.away).map((b) => ({ ...b, study: s.name }))),
  );
  const versions = $derived(
    (methods.data ?? []).flatMap((m) =>
      m.versions.slice(0, 1).map((v) => ({ id: (m.versions.find((a) => a.approved) ?? v).id, name: m.name, study: m.study })),
    ),
  );
  // The method of the study's newest batch is the likely one.
  $effect(() => {
    if (draft.study === "" && studies.data)
      draft.study = studies.data.find((s) => s.name === studyOf[post.kind])?.name ?? studies.data[0]?.name ?? "";
  });
  $effect(() => {
    if (versions.length && !versions.some((v) => v.id === draft.version && v.study === draft.study))
      draft.version = versions.find((v) => v.study === draft.study)?.id ?? "";
  });
  const filled = $derived(draft.rows.filter((r) => r.name.trim() || r.vial.trim()));
  const endings = $derived(post.state?.endings ?? []);

  function key(e: KeyboardEvent, at: number, field: Field) {
    if (e.altKey && e.code === "KeyF") draft.rows = fillDown(draft.rows, at, field);
    else if (e.altKey && e.code === "KeyS") draft.rows = series(draft.rows, at, field);
    else if (e.key === "Enter" || e.key === "ArrowDown") {
      if (at === draft.rows.length - 1 && e.key === "Enter") draft.rows.push(empty());
      setTimeout(() => document.querySelector<HTMLElement>(`[data-cell="${at + 1} ${field}"]`)?.focus());
    } else if (e.key === "ArrowUp") document.querySelector<HTMLElement>(`[data-cell="${at - 1} ${field}"]`)?.focus();
    else return;
    e.preventDefault();
  }
  function paste(e: ClipboardEvent, at: number, field: Field) {
    const text = e.clipboardData?.getData("text") ?? "";
    if (!/[\t\n]/.test(text)) return;
    e.preventDefault();
    draft.rows = pasted(draft.rows, at, field, text);
  }
  async function give(e: SubmitEvent) {
    e.preventDefault();
    const { study, name, version, start, ending } = draft;
    try {
      let id = draft.batch;
      if (!id) {
        ({ id } = await answer(api.POST("/api/batches", { body: { study, name, ...(version ? { version_id: version } : {}) } })));
        await queries.invalidateQueries({ queryKey: ["studies"] });
        draft.batch = id;
      }
      const list = filled.map((r) => Object.fromEntries(Object.entries(r).filter(([, v]) => v.trim())));
      await bench.start(post.id, { batch_id: id, rows: list, start, ending });
      trouble = bench.trouble;
    } catch (error) {
      trouble = (error as Error).message;
    }
  }
  const heads: Record<Field, string> = {
    name: "Name",
    vial: "Vial",
    role: "Role",
    level: "Level",
    sample: "Sample taken",
    volume: "Extract",
    dilution: "Dilution",
  };
</script>

<form class="new" onsubmit={give} oninput={() => (draft.open = true)} aria-label="A new list for {post.name}">
  <div class="hd">
    <h1>A list for {post.name} <span class="note">its runs are taken in and processed as they end</span></h1>
    {#if examples[post.kind] && post.stand_in}<button
        type="button"
        class="lnk"
        title="A standard, five samples and a closing check, as they stand in the tray of the stand-in"
        onclick={() => {
          draft.rows = examples[post.kind]!.map((r) => ({ ...r }));
          draft.name ||= "From the bench";
          draft.open = true;
        }}>Fill in an example</button
      >{/if}
  </div>
  <div class="into">
    <label
      >Into <select class="field" bind:value={draft.batch} title="The batch that the runs go into" aria-label="Batch"
        ><option value="">a new batch</option>{#each open as b (b.id)}<option value={b.id}>{b.name} — {b.study}</option>{/each}</select
      ></label
    >
    {#if !draft.batch}
      <label
        >of <input
          class="field"
          bind:value={draft.study}
          list="bench-studies"
          required
          maxlength="200"
          aria-label="Study"
          title="Its study"
        /></label
      >
      <datalist id="bench-studies"
        >{#each studies.data ?? [] as s (s.id)}<option value={s.name}></option>{/each}</datalist
      >
      <label
        >called <input
          class="field"
          bind:value={draft.name}
          required
          maxlength="200"
          aria-label="Name of the batch"
          title="Its name"
        /></label
      >
      <label
        >by <select class="field" bind:value={draft.version} aria-label="Method" title="The method that it is processed with"
          ><option value="">a new method</option>{#each versions as v (v.id)}<option value={v.id}>{v.name} — {v.study}</option
            >{/each}</select
        ></label
      >
    {/if}
  </div>
  <div class="scroll">
    <table aria-label="Rows of the new list">
      <thead
        ><tr
          ><th>#</th>{#each fields as f (f)}<th class="l">{heads[f]}</th>{/each}<th></th></tr
        ></thead
      >
      <tbody>
        {#each draft.rows as r, k (k)}<tr>
            <td class="num mut">{k + 1}</td>
            {#each fields as f (f)}<td class={f}
                ><input
                  class="field"
                  bind:value={r[f]}
                  data-cell="{k} {f}"
                  maxlength="200"
                  aria-label="{heads[f]} of row {k + 1}"
                  title="Alt F fills down, Alt S counts on; a table from a spreadsheet is pasted"
                  onkeydown={(e) => key(e, k, f)}
                  onpaste={(e) => paste(e, k, f)}
                /></td
              >{/each}
            <td
              ><button
                type="button"
                class="lnk"
                title="Takes row {k + 1} out"
                aria-label="Take row {k + 1} out"
                onclick={() => (draft.rows = draft.rows.length > 1 ? draft.rows.filter((_, i) => i !== k) : [empty()])}>×</button
              ></td
            >
          </tr>{/each}
      </tbody>
    </table>
    <button type="button" class="lnk" title="A further row" onclick={() => draft.rows.push(empty())}>add a row</button>
  </div>
  <div class="ends">
    <fieldset>
      <legend>It begins</legend>
      <label class="chk"
        ><input type="radio" value="when_ready" bind:group={draft.start} title="As soon as everything is true" />when it is ready</label
      >
      <label class="chk"><input type="radio" value="when_told" bind:group={draft.start} title="When somebody says so" />when I say so</label
      >
    </fieldset>
    <fieldset>
      <legend>When it ends</legend>
      {#each endings as e (e.id)}<label class="chk"
          ><input type="radio" value={e.id} bind:group={draft.ending} title={e.then} />{e.says}</label
        >{/each}
    </fieldset>
  </div>
  {#if post.list && !post.list.ended}<p class="cau" role="status">
      {post.name} was given another list meanwhile, by {post.list.who}. This one stays here, and can be given once that has ended.
    </p>{/if}
  {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
  <p class="go">
    <button class="btn pri" disabled={filled.length === 0} title="Gives the list to {post.name}, which gets ready for it"
      >Give it {count(filled.length, "injection")}</button
    >
    {#if post.list}<button type="button" class="lnk" title="Back to what it does" onclick={() => (draft.open = false)}>leave it</button
      >{/if}
  </p>
</form>

<style>
  .new {
    display: flex;
    flex-direction: column;
    gap: 10px;
    min-height: 0;
    overflow-y: auto;
  }
  .hd {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  h1 {
    font: 500 21px/1.35 var(--f-read);
  }
  h1 .note {
    font: 400 12px/1.4 var(--f-ui);
  }
  .into {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
  }
  .into .field {
    max-width: 260px;
  }
  .into input.field {
    max-width: 180px;
  }
  .scroll {
    min-height: 120px;
  }
  table {
    width: 100%;
    margin-bottom: 4px;
  }
  td .field {
    width: 100%;
    min-height: 24px;
  }
  td.name {
    width: 34%;
  }
  td button {
    min-width: 24px;
    min-height: 24px;
  }
  .ends {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 40px;
  }
  legend {
    font-weight: 600;
    font-size: 12.5px;
  }
  .chk {
    display: flex;
    gap: 6px;
    min-height: 24px;
    align-items: center;
  }
  .go {
    display: flex;
    gap: 14px;
    align-items: center;
  }
</style>
