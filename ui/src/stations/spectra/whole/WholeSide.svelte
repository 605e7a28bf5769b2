<script lang="ts">
  // What a stretch holds and how sure that is: how many, by what share, what the chosen component is like, and what is doubtful in the batch.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../../api/client";
  import Choice from "../../../parts/Choice.svelte";
  import { fixed, missing } from "../../../look/number";
  import { ask } from "../../../state/ask";
  import { cutAt, cutsOf, moved, whole } from "./whole.svelte";

  let { batch }: { batch: Batch } = $props();
  const query = createQuery(() => ask.resolving(batch.id, batch.revision, whole.hits));
  const stretch = createQuery(() => ask.resolvedStretch(batch.id, batch.revision, whole.stretch));
  const w = $derived(query.data);
  const d = $derived(whole.stretch >= 0 ? stretch.data : undefined);
  const c = $derived(d?.components[whole.component]);
  const row = $derived(w?.rows.find((r) => r.stretch === whole.stretch && r.component === whole.component));
  const compounds = $derived(d?.components.filter((o) => !o.background).length ?? 0);
  const doubtful = $derived((w?.rows ?? []).filter((r) => r.doubts.length > 0 && !r.aside));
  const quiet = $derived(doubtful.length === 0 && !w?.stretches.some((s) => s.doubts.length));
  const shares = $derived(d?.explained_by ?? []);
  let wide = $state(270);
  const tall = 76;
  const x = (k: number) => 14 + (k / Math.max(1, shares.length - 1)) * (wide - 60);
  const low = $derived(Math.min(0.9, ...shares) - 0.01);
  const y = (v: number) => 8 + ((1 - v) / (1 - low)) * (tall - 30);
  let name = $state("");
  /** The stretch, with its number, that another model is asked about. */
  let asked = $state("");
  const here = $derived(d ? `${whole.stretch} ${d.from_min} ${d.to_min} ${d.components.length}` : "");
  const second = createQuery(() => ask.secondOpinion(batch.id, whole.stretch, asked === here ? asked : ""));
  let more = $state(false);
  function move(end: "from_min" | "to_min", words: string) {
    const v = Number(words.trim().replace(",", "."));
    if (!Number.isFinite(v)) {
      whole.trouble = `“${words}” is no time.`;
      return;
    }
    void whole.cut(batch.id, moved(cutsOf(w), whole.stretch, end, v));
  }
  function join() {
    const list = cutsOf(w);
    const next = list.splice(whole.stretch + 1, 1)[0];
    if (next) list[whole.stretch]!.to_min = next.to_min;
    void whole.cut(batch.id, list);
  }
  function part() {
    if (d) void whole.cut(batch.id, cutAt(cutsOf(w), (d.from_min + d.to_min) / 2));
  }
</script>

<section aria-label="The stretch">
  <h2>
    {whole.stretch < 0 ? "Stretch" : `Stretch ${whole.stretch + 1}`}
    <span class="r">{d ? `${fixed(d.from_min, 2)} – ${fixed(d.to_min, 2)} min` : ""}</span>
  </h2>
  {#if !d}<p class="note">Choose a stretch under the run.</p>
  {:else}
    <p class="says">{d.says}</p>
    {#if shares.length > 1}
      <div bind:clientWidth={wide}>
        <svg width={wide} height={tall} role="img" aria-label="Share explained by so many components">
          <path d={shares.map((v, k) => `${k ? "L" : "M"}${x(k).toFixed(1)} ${y(v).toFixed(1)}`).join("")} class="line" />
          {#each shares as v, k (k)}<circle
              cx={x(k)}
              cy={y(v)}
              r={k + 1 === d.components.length ? 4.5 : 3}
              class:on={k + 1 === d.components.length}><title>{k + 1}: {fixed(100 * v, 2)} %</title></circle
            ><text class="tl" x={x(k)} y={tall - 4} text-anchor="middle">{k + 1}</text>{/each}
          <text class="tl" x={wide} y="14" text-anchor="end">100 %</text>
        </svg>
      </div>
      <div class="fact">
        <span>How many</span>
        <Choice
          label="Compounds here"
          options={[["0", "found"] as [string, string], ...[1, 2, 3, 4, 5].map((n): [string, string] => [String(n), String(n)])]}
          value={String(d.given)}
          choose={(v) => whole.number(batch.id, Number(v))}
        />
      </div>
      <p class="note">
        {#if !d.given}Chosen by {d.chosen_by}.
        {:else}{compounds} were asked for{#if d.found}; left alone it finds {d.found.compounds}, which explain {fixed(
              100 * d.found.explained,
              2,
            )} %, these {fixed(100 * d.explained, 2)} %{/if}.{/if}
      </p>
    {/if}
    {#each d.doubts as o (o)}<p class="note">{o}</p>{/each}
    {#if compounds > 0}
      {#if asked !== here}<p class="note">
          <button
            class="lnk"
            title="Resolves the stretch once more by PARAFAC2, which lets profiles shift, and compares spectra and amounts"
            onclick={() => (asked = here)}>ask the shift-tolerant model, too</button
          >
        </p>
      {:else if second.isError}<p class="att" role="alert">{second.error.message}</p>
      {:else if !second.data}<p class="note">The shift-tolerant model is at it …</p>
      {:else}
        <p class="note">{second.data.says}</p>
        {#each second.data.components as o, k (k)}<p class="fact">
            <span>{fixed(o.apex_min, 2)} min</span><span class="num"
              >spectrum {fixed(100 * o.cosine, 1)}, amounts {fixed(100 * o.correlation, 1)}</span
            >
          </p>{/each}
      {/if}
    {/if}
  {/if}
  {#if d && w}
    <p class="cuts">
      {#each [["from_min", "From", d.from_min], ["to_min", "to", d.to_min]] as const as [end, words, value] (end)}<label
          title="Where the stretch {end === 'from_min' ? 'begins' : 'ends'}, min; it is resolved anew"
          >{words}<input class="field num" value={value.toFixed(3)} onchange={(e) => move(end, e.currentTarget.value)} /></label
        >{/each} min
    </p>
    <p class="cuts">
      {#if whole.stretch + 1 < w.stretches.length}<button class="lnk" title="One stretch of this and the next" onclick={join}
          >join with the next</button
        >{/if}
      <button class="lnk" title="Two stretches, parted in the middle; their ends can then be moved" onclick={part}
        >part in the middle</button
      >
      {#if w.by_hand}<button class="lnk" title="The stretches that are proposed" onclick={() => whole.cut(batch.id, [])}>as proposed</button
        >{/if}
    </p>
  {/if}
  {#if whole.trouble}<p class="att" role="alert">{whole.trouble}</p>{/if}
</section>
{#if d && c}
  <section aria-label="The component">
    <h2>
      {c.background ? "Background" : `Component ${whole.component + 1}`}
      <span class="r">{c.background ? "" : `found in ${c.found} of ${d.injections.length}`}</span>
    </h2>
    {#if c.background}<p class="note">It runs through, as bleed and solvent do. It is no compound, and no name is looked for.</p>
    {:else}
      {#each c.hits.slice(0, more ? undefined : 3) as h (h.id)}<p class="fact">
          <button class="lnk" title="Takes this name" onclick={() => (name = h.name)}>{h.name}</button>
          <span class="num">{fixed(h.forward, 0)} forward, {fixed(h.reverse, 0)} reverse</span>
        </p>{:else}<p class="note">Nothing in the libraries is like it.</p>{/each}
      {#if c.hits.length > 3}<p class="note">
          <button class="lnk" title="As many as the libraries have, ten at most" onclick={() => (more = !more)}
            >{more ? "fewer" : `${c.hits.length - 3} more`}</button
          >
        </p>{/if}
      <p class="fact">
        <span>Index{c.hits[0]?.retention_index ? ", expected" : ""}</span>
        <span class="num"
          >{c.index === null ? missing : c.index.toFixed(0)}{c.hits[0]?.retention_index
            ? `, ${c.hits[0].retention_index.toFixed(0)}`
            : ""}</span
        >
      </p>
      <p class="fact"><span>Of the signal here</span><span class="num">{fixed(100 * c.explained, 1)} %</span></p>
      {#each [...new Set([...c.doubts, ...(row?.doubts ?? [])])] as o (o)}<p class="att doubt">{o}</p>{/each}
      {#if c.cut_in_two && compounds > 1}<p class="note">
          <button
            class="lnk"
            title="Resolves the stretch into {compounds - 1}, so that the two halves are one"
            onclick={() => whole.number(batch.id, compounds - 1)}>join the two halves</button
          >
        </p>{/if}
      {#if row}<p class="note">
          <button class="lnk" title="Leaves it out of the table, or has it back (X)" onclick={() => whole.aside(batch.id, !row.aside)}
            >{row.aside ? "have it back" : "leave it out"} <kbd>X</kbd></button
          >
        </p>{/if}
      {#if row?.confirmed}<p class="note"><b>{row.name}</b> is a compound of the method.</p>
      {:else}<form
          class="acts"
          onsubmit={(e) => {
            e.preventDefault();
            void whole.confirm(name.trim() || c.hits[0]?.name || "");
            name = "";
          }}
        >
          <input
            class="field"
            bind:value={name}
            maxlength="80"
            placeholder={c.hits[0]?.name ?? "its name"}
            title="Its name; empty takes the first of the hits"
          />
          <button class="btn pri" title="A compound of the method, looked for by the ion that is most its own"
            >Confirm <kbd>Enter</kbd></button
          >
        </form>{/if}
    {/if}
  </section>
{/if}
<section aria-label="Doubtful">
  <h2>Doubtful <span class="r">{w ? `${doubtful.length} of ${w.rows.length}` : ""}</span></h2>
  {#each doubtful as r (`${r.stretch}-${r.component}`)}
    <p class="doubt">
      <button class="lnk" title="Looks at it" onclick={() => whole.choose(r.stretch, r.component)}
        >{fixed(r.apex_min, 2)} min{r.name ? `, ${r.name}?` : ""}</button
      >
      {r.doubts[0]}
    </p>
  {/each}
  {#each w?.stretches ?? [] as s, k (k)}{#each s.doubts as o (o)}<p class="doubt">
        <button class="lnk" title="Looks at it" onclick={() => whole.choose(k)}>Stretch {k + 1}</button>
        {o}
      </p>{/each}{/each}
  {#if quiet}<p class="note">{w?.rows.length ? "Nothing here wants your eyes." : "Nothing is resolved yet."}</p>{/if}
</section>

<style>
  .says {
    font: 15px/21px var(--f-read);
  }
  svg {
    display: block;
  }
  .line {
    fill: none;
    stroke: var(--ink-2);
  }
  circle {
    fill: var(--paper);
    stroke: var(--ink-2);
  }
  circle.on {
    fill: var(--ai);
    stroke: var(--ai);
  }
  .fact {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    align-items: baseline;
    border-bottom: 1px solid var(--mist-1);
    padding: 2px 0;
    font-size: 12.5px;
    min-height: 24px;
  }
  .cuts {
    display: flex;
    gap: 10px;
    align-items: baseline;
    font-size: 12.5px;
    margin-top: 6px;
    flex-wrap: wrap;
  }
  .cuts label {
    display: inline-flex;
    gap: 6px;
    align-items: baseline;
  }
  .cuts input {
    width: 62px;
    text-align: right;
  }
  .acts {
    display: flex;
    gap: 8px;
    margin: 8px 0;
  }
  .acts .field {
    flex: 1;
    min-width: 0;
  }
  .doubt {
    font-size: 12.5px;
    line-height: 17px;
    margin: 4px 0;
  }
</style>
