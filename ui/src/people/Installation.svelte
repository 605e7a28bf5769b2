<script lang="ts">
  // What the installation has decided of itself: whose it is, how its paper looks, and what signatures mean.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, Problem, type InstallationSettings } from "../api/client";
  import Foot from "../parts/Foot.svelte";
  import PageBar from "../parts/PageBar.svelte";
  import Side from "../parts/Side.svelte";
  import { ask, queries } from "../state/ask";
  import { keys } from "../state/keys.svelte";
  import { place } from "../state/place.svelte";
  import { session } from "../state/session.svelte";
  import { who } from "../state/who.svelte";

  const query = createQuery(() => ask.settings());
  const installation = createQuery(() => ask.installation());
  let draft = $state<InstallationSettings>();
  let kept = "";
  $effect(() => {
    if (query.data && JSON.stringify(query.data) !== kept) {
      kept = JSON.stringify(query.data);
      draft = structuredClone(query.data);
    }
  });
  const changed = $derived(draft !== undefined && JSON.stringify(draft) !== JSON.stringify(query.data));
  let said = $state("");
  let wrong = $state<{ where: string; text: string }>({ where: "", text: "" });
  const zones = Intl.supportedValuesOf("timeZone");
  const meanings = [
    ["prepared", "I made this, and looked at every peak, curve and check"],
    ["reviewed", "I looked at every change in this list, and at the curves and checks"],
    ["approved", "Released to who asked for it"],
  ] as const;
  async function keep() {
    if (!draft || !changed) return;
    said = "";
    wrong = { where: "", text: "" };
    await who.sure();
    try {
      const now = await answer(api.PUT("/api/settings", { body: draft }));
      queries.setQueryData(["settings"], now);
      await queries.invalidateQueries({ queryKey: ["installation"] });
      void queries.invalidateQueries({ queryKey: ["review"] });
      said = "Kept. Reports that were kept before stay as they are.";
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      wrong = { where: error.pointer ?? "", text: error.message };
    }
  }
  async function choose(file: File | undefined) {
    if (!file || !draft) return;
    const bytes = new Uint8Array(await file.arrayBuffer());
    let text = "";
    for (const b of bytes) text += String.fromCharCode(b);
    draft.mark = btoa(text);
  }
  $effect(() => keys({ "alt+0": () => place.home(), "mod+s": () => void keep(), Escape: () => (draft = structuredClone(query.data)) }));
  const may = $derived(session.may("keep"));
</script>

{#snippet refused(where: string)}{#if wrong.where === where}<span class="att" role="alert">{wrong.text}</span>{/if}{/snippet}

<div class="page">
  <PageBar />
  <div class="stage">
    <main class="main">
      <h1>Settings <span class="note">of this installation: whose it is, and how its paper looks</span></h1>
      {#if query.isError}<p class="att" role="alert">{query.error.message}</p>
      {:else if !draft}<p class="note">Reading the settings …</p>
      {:else}
        <form
          onsubmit={(e) => {
            e.preventDefault();
            void keep();
          }}
        >
          <fieldset disabled={!may}>
            <legend>Laboratory</legend>
            <label
              >Name <input
                class="field"
                title="As reports name it"
                bind:value={draft.name}
                maxlength="200"
                placeholder={installation.data?.laboratory.name ?? ""}
              />{@render refused("/name")}</label
            >
            <label
              >Address <input
                class="field"
                title="Under the name on reports"
                bind:value={draft.address}
                maxlength="300"
                placeholder={installation.data?.laboratory.address ?? ""}
              />{@render refused("/address")}</label
            >
            <div class="row">
              <span>Mark</span>
              <span class="mark">
                {#if draft.mark?.length}<img src="data:image/png;base64,{draft.mark}" alt="The mark of the laboratory" />
                  <button type="button" class="lnk" title="Reports go without it" onclick={() => draft && (draft.mark = "")}
                    >take it off</button
                  >{/if}
                <input
                  type="file"
                  accept="image/png"
                  title="A PNG that stands before the name, at most 200 kB"
                  aria-label="Mark, a PNG"
                  onchange={(e) => choose(e.currentTarget.files?.[0])}
                />
              </span>
              {@render refused("/mark")}
            </div>
          </fieldset>
          <fieldset disabled={!may}>
            <legend>Paper</legend>
            <label
              >Size <select class="field" title="Of the layouts that ship; others say it themselves" bind:value={draft.paper}>
                <option value="">as the layout has it</option><option>A4</option><option>Letter</option>
              </select></label
            >
            <label
              >Times <select class="field" title="The time zone of times on paper" bind:value={draft.zone}>
                <option value="">UTC</option>{#each zones as z (z)}<option>{z}</option>{/each}
              </select>{@render refused("/zone")}</label
            >
            <label
              >Decimal mark <select
                class="field"
                title="In numbers on paper; screens and files have a point"
                value={draft.decimal_comma ? "," : "."}
                onchange={(e) => draft && (draft.decimal_comma = e.currentTarget.value === ",")}
              >
                <option value=".">point, 1.25</option><option value=",">comma, 1,25</option>
              </select></label
            >
          </fieldset>
          <fieldset disabled={!may}>
            <legend>What signatures mean</legend>
            {#each meanings as [m, usual] (m)}
              <label
                >{m}
                <input
                  class="field wide"
                  title="In the laboratory's words"
                  maxlength="200"
                  placeholder={usual}
                  value={draft.meanings?.[m] ?? ""}
                  oninput={(e) => draft && (draft.meanings = { ...draft.meanings, [m]: e.currentTarget.value })}
                /></label
              >
            {/each}
            {@render refused("/meanings")}
          </fieldset>
          <p class="acts">
            <button class="btn pri" disabled={!may || !changed} title="Keeps all of it (Ctrl S)">Keep <kbd>Ctrl S</kbd></button>
            <button
              type="button"
              class="btn"
              disabled={!changed}
              title="As it is kept (Esc)"
              onclick={() => (draft = structuredClone(query.data))}>Leave it</button
            >
            {#if said}<span class="note" role="status">{said}</span>{/if}
            {#if !may}<span class="note">A keeper changes it.</span>{/if}
          </p>
        </form>
      {/if}
    </main>
    <Side>
      <section aria-label="Where it shows">
        <h2>Where it shows</h2>
        <p class="note">
          Name, address and mark stand at the head of every report from now on; size, times and decimal mark on its pages. Files for other
          programs keep points and UTC.
        </p>
        <p class="note">What a signature means stands with it for good, in the words of its day.</p>
      </section>
    </Side>
    <Foot
      hints={[
        ["Ctrl S", "keep"],
        ["Esc", "as it is kept"],
        ["Alt 0", "the shelf"],
      ]}>Each change stands in the record</Foot
    >
  </div>
</div>

<style>
  .page {
    display: grid;
    grid-template-rows: 41px minmax(0, 1fr);
    height: 100%;
  }
  .main {
    padding: 6px 16px;
    overflow: auto;
  }
  h1 {
    font: 500 22px/1.5 var(--f-read);
  }
  h1 .note {
    margin-left: 6px;
    font-family: var(--f-ui);
    font-weight: 400;
  }
  form {
    display: grid;
    gap: 18px;
    max-width: 720px;
    margin-top: 8px;
  }
  fieldset {
    display: grid;
    gap: 8px;
  }
  legend {
    font: 500 16px/24px var(--f-read);
    margin-bottom: 6px;
  }
  label,
  .row {
    display: grid;
    grid-template-columns: 120px minmax(0, 1fr);
    gap: 2px 10px;
    align-items: baseline;
  }
  label > .att,
  .row > .att {
    grid-column: 2;
  }
  .field {
    max-width: 320px;
  }
  .wide {
    max-width: none;
  }
  .mark {
    display: flex;
    gap: 12px;
    align-items: center;
  }
  .mark img {
    max-height: 40px;
    max-width: 140px;
  }
  .acts {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  .att {
    color: var(--kaki-text);
  }
</style>
