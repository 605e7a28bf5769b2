<script lang="ts">
  // What the peak may be: what is proposed and what speaks for and against it, the hits, the ions in lanes, and the libraries.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, Problem, type Batch, type Identified, type SpectrumHit } from "../../api/client";
  import { fixed, missing } from "../../look/number";
  import { ask, queries } from "../../state/ask";
  import { desk } from "../../state/desk.svelte";
  import { who } from "../../state/who.svelte";
  import Ions from "./Ions.svelte";
  import { shown } from "./spectra.svelte";
  import type { Snippet } from "svelte";
  import Choice from "../../parts/Choice.svelte";

  let {
    batch,
    found,
    hit,
    hits,
    between,
    name,
    confirm,
    reject,
    injection,
  }: {
    batch: Batch;
    found: Identified | undefined;
    hit: SpectrumHit | undefined;
    /** In the order that was chosen. */ hits: SpectrumHit[];
    /** What stands after the proposal. */ between: Snippet;
    /** The name that the peak has already. */ name: string;
    confirm: () => void;
    reject: (why: string) => void;
    injection: string;
  } = $props();
  const masses = $derived(found?.kind !== "wavelength");
  const libraries = createQuery(() => ask.libraries());
  const signed = (v: number | null | undefined) => {
    if (v === null || v === undefined) return missing;
    const whole = Math.round(v);
    return whole > 0 ? `+${whole}` : whole < 0 ? `−${-whole}` : "0";
  };
  let why = $state("");
  let rejecting = $state(false);
  export function askWhy() {
    rejecting = true;
  }
  let own = $state("");
  let said = $state("");
  async function act(what: () => Promise<string>) {
    said = "";
    try {
      await who.sure();
      said = await what();
      await queries.invalidateQueries({ queryKey: ["libraries"] });
      await queries.invalidateQueries({ queryKey: ["identify"] });
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      said = error.message;
    }
  }
  const library = "Our own";
  const keep = () =>
    act(async () => {
      const taken = await answer(
        api.POST("/api/libraries/spectra", {
          body: {
            library,
            name: own.trim(),
            kind: found!.kind,
            peaks: found!.peaks,
            ...(found!.index === null ? {} : { retention_index: Number(found!.index.toFixed(1)) }),
            source: `${batch.name}, ${injection}, ${found!.at_min.toFixed(3)} min`,
          },
        }),
      );
      own = "";
      return taken.added ? `Kept in ${library}.` : "It is there already, line by line.";
    });
  async function bring(e: Event) {
    const input = e.currentTarget as HTMLInputElement;
    const file = input.files?.[0];
    input.value = "";
    if (!file) return;
    await act(async () => {
      const response = await fetch(`/api/libraries/file?${new URLSearchParams({ name: file.name.replace(/\.[^.]+$/, "") }).toString()}`, {
        method: "POST",
        body: file,
      });
      const got = (await response.json()) as { added: number; twice: string[]; detail?: string };
      if (!response.ok) return got.detail ?? "It cannot be read.";
      return `${got.added} spectra taken in${got.twice.length ? `, ${got.twice.length} were there already` : ""}.`;
    });
  }
  function focus(el: HTMLInputElement) {
    el.focus();
  }
</script>

<section aria-label="Proposed">
  <h2>{name ? "Named" : "Proposed"} <span class="r">{found?.index ? `index ${found.index.toFixed(0)}` : ""}</span></h2>
  {#if !found}<p class="note">Choose a peak, or a moment: its spectrum and what it is like stand here.</p>
  {:else}
    <p class="what">
      {name || (hit && hit.forward >= (found.kind === "wavelength" ? 95 : 60) && !hit.rejected ? `${hit.name}?` : missing)}
    </p>
    <p class="says">{found.says}</p>
    {#if hit && !name && !hit.rejected}
      <p class="acts">
        <button class="btn pri" title="The peak bears this name in every injection; a version of the method says so" onclick={confirm}
          >Confirm <kbd>Enter</kbd></button
        >
        <button class="btn" title="It is not this; the record says why (X)" onclick={() => (rejecting = true)}>Reject <kbd>X</kbd></button>
      </p>
    {:else if hit?.rejected}<p class="acts">
        <span class="att">Rejected: {hit.rejected}</span>
        <button class="lnk" title="It is proposed again" onclick={() => reject("")}>take it back</button>
      </p>{/if}
    {#if rejecting && hit}<form
        class="acts"
        onsubmit={(e) => {
          e.preventDefault();
          if (why.trim()) {
            reject(why);
            rejecting = false;
            why = "";
          }
        }}
      >
        <input
          class="field"
          bind:value={why}
          maxlength="500"
          placeholder="why it is not {hit.name}"
          title="Why it is not; it goes to the record"
          {@attach focus}
          onkeydown={(e) => e.key === "Escape" && (rejecting = false)}
        />
        <button class="btn" disabled={!why.trim()} title="Rejects it">Reject</button>
      </form>{/if}
  {/if}
</section>
{@render between()}
{#if found && found.hits.length}
  <section aria-label="Hits">
    <h2>Hits <span class="r">best {found.hits.length} of {found.of}</span></h2>
    <table>
      <thead
        ><tr
          ><th class="l">Compound</th>{#if masses}<th title="Over the lines of both">forward</th><th title="Over the lines of the entry"
              >reverse</th
            ><th>index</th><th>off</th>{:else}<th title="100 times the cosine of the angle between the spectra">match</th><th class="l"
              >Library</th
            >{/if}</tr
        ></thead
      >
      <tbody>
        {#each hits as h (h.id)}
          <tr class:on={h.id === hit?.id} class:gone={h.rejected}>
            <td class="l"
              ><button
                title="{h.library}{h.formula ? `, ${h.formula}` : ''}{h.rejected ? `; rejected: ${h.rejected}` : ''}"
                onclick={() => (shown.hit = h.id ?? "")}>{h.name}</button
              ></td
            >
            <td>{fixed(h.forward, 1)}</td>
            {#if masses}<td>{fixed(h.reverse, 1)}</td>
              <td>{h.retention_index ? h.retention_index.toFixed(0) : missing}</td>
              <td class:near={h.off !== null && Math.abs(h.off) <= 6}>{signed(h.off)}</td>
            {:else}<td class="l">{h.library}</td>{/if}
          </tr>
        {/each}
      </tbody>
    </table>
    {#if found.index !== null}<Choice
        label="Order of the hits"
        options={[
          ["match", "by match"],
          ["both", "match and index"],
        ]}
        value={shown.order}
        choose={(o) => (shown.order = o)}
      />{/if}
    <p class="note">
      {found.kind === "wavelength"
        ? "100 times the cosine of the angle between the spectra."
        : shown.order === "both"
          ? "By forward × exp(−½ (off ÷ 12)²): an index that is off by 12 takes two fifths of it."
          : "By forward match; the index does not reorder, bold is within ± 6."}{found.index === null && found.kind !== "wavelength"
        ? " No ladder reaches here."
        : ""}
    </p>
  </section>
{/if}
{#if masses}<Ions {batch} />{/if}
<section aria-label="Libraries">
  <h2>Libraries <span class="r">{(libraries.data ?? []).reduce((n, l) => n + l.spectra, 0)} spectra</span></h2>
  {#each libraries.data ?? [] as l (l.name)}
    <p class="fact">
      <span>{l.name}</span><span class="mut num">{l.spectra}</span>
      {#each ["json", "csv", "jdx"] as as (as)}<a
          class="lnk"
          title="The library as {as.toUpperCase()}"
          href="/api/libraries/file?{new URLSearchParams({ name: l.name, as }).toString()}"
          download>{as}</a
        >{/each}
    </p>
  {/each}
  {#if found && found.peaks.length}<form
      class="acts"
      onsubmit={(e) => {
        e.preventDefault();
        if (own.trim()) void keep();
      }}
    >
      <input
        class="field"
        id="own"
        bind:value={own}
        maxlength="200"
        placeholder="keep this spectrum as …"
        title="Keeps the spectrum in the laboratory's own library (N)"
      />
      <button class="btn" disabled={!own.trim()} title="Keeps it">Keep</button>
    </form>{/if}
  <p class="acts">
    <label class="lnk" title="JSON, JCAMP-DX or CSV; each file is a library of its own name"
      >bring one in<input type="file" accept=".json,.jdx,.dx,.csv,.txt" onchange={(e) => void bring(e)} /></label
    >
    <span class="note" role="status">{said || desk.trouble}</span>
  </p>
</section>

<style>
  .what {
    font: 500 24px/32px var(--f-read);
  }
  .says {
    font: 15px/21px var(--f-read);
  }
  .acts {
    display: flex;
    gap: 10px;
    align-items: baseline;
    margin: 8px 0 4px;
    font-size: 12.5px;
    flex-wrap: wrap;
  }
  .acts .field {
    flex: 1;
    min-width: 0;
  }
  section > form > .field {
    width: 100%;
  }
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12.5px;
  }
  td,
  th {
    padding: 1px 4px;
  }
  td.l,
  th.l {
    text-align: left;
    max-width: 118px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  tr.on td {
    background: var(--row-kaki);
  }
  tr.on td:first-child {
    box-shadow: inset 3px 0 var(--kaki);
    font-weight: 500;
  }
  .gone {
    text-decoration: line-through;
  }
  .near {
    font-weight: 600;
  }
  .fact {
    display: grid;
    grid-template-columns: 1fr auto auto auto auto;
    gap: 10px;
    font-size: 12.5px;
    line-height: 24px;
  }
  .fact a {
    min-height: 24px;
    min-width: 24px;
  }
  input[type="file"] {
    display: none;
  }
</style>
