<script lang="ts">
  // The signals that the batch's files hold: which one the batch is processed by, which are processed beside it, and what can be derived from spectra.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../api/client";
  import { count } from "../../look/number";
  import { channelTitle } from "../../state/channel";
  import { ask } from "../../state/ask";
  import { desk } from "../../state/desk.svelte";

  let { batch }: { batch: Batch } = $props();
  const query = createQuery(() => ask.signals(batch.id, batch.revision));
  const list = $derived(query.data ?? []);
  const channels = $derived(batch.version.method.channels);
  const first = $derived(channels[0]!.id);
  const ofSpectra = $derived(channels.filter((c) => c.signal.kind));
  const spectra = $derived(new Set(batch.injections.flatMap((i) => i.header.spectra ?? [])));

  /** Of what can be combined: what is combined already is no part of another. */
  const parts = $derived(channels.filter((c) => c.signal.kind !== "ratio" && c.signal.kind !== "less_blank"));
  const blanks = $derived(batch.injections.some((i) => i.role === "blank"));
  const ways = $derived([...(blanks ? ["less_blank" as const] : []), ...(parts.length > 1 ? ["ratio" as const] : [])]);
  let chosen = $state({ one: "", other: "", how: "" });
  /** What was chosen, as long as it can be. */
  const how = $derived(ways.find((w) => w === chosen.how) ?? ways[0]);
  const one = $derived(parts.find((c) => c.id === chosen.one)?.id ?? parts[0]?.id ?? "");
  const other = $derived(parts.find((c) => c.id === chosen.other)?.id ?? parts[1]?.id ?? "");
  const combine = async (e: SubmitEvent) => {
    e.preventDefault();
    if (how) await desk.addChannel({ kind: how, of: how === "ratio" ? [one, other] : [one] });
  };
  let words = $state("");
  async function derive(e: SubmitEvent) {
    e.preventDefault();
    if (!words.trim()) return;
    const kind = !spectra.has("mass") ? "wavelength" : /[→>]/.test(words) ? "product" : "ions";
    if (await desk.addChannel({ kind, words: words.trim() })) words = "";
  }
</script>

{#if list.length > 1 || spectra.size > 0}
  <section aria-label="Signals">
    <h2>Signals <span class="r">{count(channels.length, "channel")} processed</span></h2>
    {#each list as s (s.name + s.unit)}
      {@const here = s.channel !== undefined && s.processed === s.in}
      <div class="row" class:on={s.channel !== undefined}>
        <i aria-hidden="true"></i><span class:mut={s.kind === "condition"}>{s.name}{s.unit ? `, ${s.unit}` : ""}</span>
        <span class="mut n"
          >{s.kind === "condition"
            ? "condition"
            : s.channel !== undefined && !here
              ? `in ${s.processed} of ${s.in}`
              : `in ${count(s.in, "injection")}`}</span
        >
        {#if s.kind !== "condition"}
          <span class="acts">
            {#if s.channel === first}
              <span class="mut">{here ? "first channel" : "first channel there"}</span>
            {/if}
            {#if s.channel === undefined}
              <button
                class="lnk"
                title="Finds its peaks too, with settings of its own; compounds can be looked for in it"
                onclick={() => desk.addChannel({ name: s.name, unit: s.unit })}>process too</button
              >
            {/if}
            {#if s.channel === undefined || (s.channel === first && !here)}
              <button
                class="lnk"
                title="Makes it the first channel in every injection that has it; edits by hand stay with the signal they were made on"
                onclick={() => desk.chooseSignal(s.name, s.unit)}>make it the first</button
              >
            {/if}
            {#if s.channel !== undefined && s.channel !== first}
              <button class="lnk" title="Its peaks are no longer found" onclick={() => desk.removeChannel(s.channel!)}>leave out</button>
            {/if}
          </span>
        {/if}
      </div>
    {/each}
    {#each ofSpectra as c (c.id)}
      <div class="row on">
        <i aria-hidden="true"></i><span>{channelTitle(batch, c)}</span><span class="mut n">derived</span>
        <span class="acts"
          ><button class="lnk" title="Its peaks are no longer found" onclick={() => desk.removeChannel(c.id)}>leave out</button></span
        >
      </div>
    {/each}
    {#if spectra.size > 0}
      <form class="derive" onsubmit={derive}>
        <label for="derive">{spectra.has("mass") ? "Ions" : "Wavelength, nm"}</label>
        <input
          id="derive"
          class="field num"
          placeholder={spectra.has("mass") ? "71.05 ± 0.3" : "278 ± 4"}
          title={spectra.has("mass")
            ? "m/z with a tolerance, in m/z or ppm; several with commas are summed. Of fragments a precursor and its product: 195.1 → 138.1 ± 0.3"
            : "A wavelength with half the width of its band"}
          bind:value={words}
        /><button class="btn" disabled={!words.trim()} title="Derives it in every injection, as a channel of its own">Add</button>
      </form>
    {/if}
    {#if ways.length > 0}
      <form class="combine" onsubmit={combine} aria-label="Combine channels">
        <select
          class="field"
          aria-label="Channel"
          title="Of which channel"
          value={one}
          onchange={(e) => (chosen.one = e.currentTarget.value)}
          >{#each parts as c (c.id)}<option value={c.id}>{channelTitle(batch, c)}</option>{/each}</select
        >
        <select
          class="field"
          aria-label="How"
          title="What is done with it, in every injection"
          value={how}
          onchange={(e) => (chosen.how = e.currentTarget.value)}
          >{#each ways as w (w)}<option value={w}>{w === "ratio" ? "over" : "less the blank"}</option>{/each}</select
        >
        {#if how === "ratio"}<select
            class="field"
            aria-label="Over which channel"
            title="The lower one of the ratio"
            value={other}
            onchange={(e) => (chosen.other = e.currentTarget.value)}
            >{#each parts as c (c.id)}<option value={c.id}>{channelTitle(batch, c)}</option>{/each}</select
          >{/if}
        <button class="btn" disabled={how === "ratio" && one === other} title="Processes it as a channel of its own">Add</button>
      </form>
    {/if}
    {#if query.isError}<p class="att" role="alert">{query.error.message}</p>{/if}
  </section>
{/if}

<style>
  .row {
    display: grid;
    grid-template-columns: 18px 1fr auto;
    align-items: baseline;
    width: 100%;
    min-height: 24px;
    font-size: 12.5px;
    border-bottom: 1px solid var(--mist-1);
  }
  .acts {
    grid-column: 2 / -1;
    display: flex;
    gap: 12px;
    min-height: 20px;
    font-size: 12px;
  }
  .derive {
    display: grid;
    grid-template-columns: auto 1fr auto;
    gap: 8px;
    align-items: center;
    padding-top: 6px;
    font-size: 12.5px;
  }
  .combine {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    padding-top: 6px;
    font-size: 12.5px;
  }
  .combine select {
    max-width: 130px;
  }
  i {
    width: 9px;
    height: 9px;
    border: 1px solid var(--ink-3);
    border-radius: 50%;
  }
  .on i {
    border-color: var(--ai);
    background: var(--ai);
    box-shadow: inset 0 0 0 2px var(--paper);
  }
</style>
