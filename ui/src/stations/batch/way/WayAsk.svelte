<script lang="ts">
  // The side of the whole way: what only a person knows, what stands ready, and the usual mistakes.
  import { tick } from "svelte";
  import { count } from "../../../look/number";
  import type { Batch, WholeWay } from "../../../api/client";
  import Mark from "../../../parts/Mark.svelte";
  import { place, type Station } from "../../../state/place.svelte";
  import { way } from "./way.svelte";

  let { batch, whole }: { batch: Batch; whole: WholeWay } = $props();
  const ready = $derived(whole.proposals.filter((p) => !p.doubt).length);
  const units = ["mg/L", "µg/mL", "µg/L", "mmol/L"];
  const said = $derived(way.ask(batch));
  const bent = $derived(whole.looked_at.some((l) => l.text === "The line is straight" && l.state === "wrong"));
  const state = { well: "✓", wrong: "", open: "◦" } as const;
  async function toName() {
    await tick();
    document.querySelector<HTMLInputElement>(".name .field")?.focus();
  }
</script>

{#if whole.asked.length > 0}
  <section aria-label="Only you know">
    <h2 class="att">Only you know <span class="r">{count(whole.asked.length, "thing")}</span></h2>
    {#each whole.asked as q (q.key)}
      <div class="row">
        <span class="att"><Mark name="look" /></span>
        <span class="text"
          >{q.text}<span class="note">{q.why}</span>
          {#if q.key === "unit"}
            <span class="units">
              {#each units as u (u)}<button class="lnk" title="All levels are in {u}" onclick={() => way.say(batch, { unit: u })}
                  >{u}</button
                >{/each}
              <input
                class="field"
                aria-label="Another unit of the levels"
                placeholder="other"
                onchange={(e) => way.say(batch, { unit: e.currentTarget.value.trim() })}
              />
            </span>
          {/if}
        </span>
        {#if q.key === "name"}<button class="lnk" title="Goes to the field of the name" onclick={toName}>here</button>{/if}
      </div>
    {/each}
  </section>
{/if}
<section aria-label="Proposed">
  <h2 data-count={whole.proposals.length || undefined}>
    Proposed <span class="r">{whole.proposals.length ? `${whole.proposals.length}, none kept` : "nothing"}</span>
  </h2>
  {#each whole.proposals as p (p.key)}
    <div class="row" class:sel={way.selected === p.key} class:doubt={p.doubt}>
      <i aria-hidden="true"></i>
      <button
        class="text"
        title="Selects it: Enter keeps it, X refuses it"
        aria-pressed={way.selected === p.key}
        onclick={() => (way.selected = p.key)}
        >{p.text}<span class="note" class:att={p.doubt}>{p.doubt ? `in doubt: ${p.doubt}` : p.from}</span></button
      >
      <button class="to" title="Goes to {p.station}" onclick={() => place.go({ station: p.station as Station })}
        >{p.station[0]!.toUpperCase() + p.station.slice(1)}</button
      >
    </div>
  {:else}<p class="note">
      {whole.concentration !== null ? "All of it is kept." : "Nothing more can be read from these files."} It can be undone as one.
    </p>{/each}
  {#if bent && said.model !== "quadratic"}
    <p class="note">
      The points bend: <button class="lnk" title="Tries a curve of second order" onclick={() => way.say(batch, { model: "quadratic" })}
        >try second order</button
      >, or <button class="lnk" onclick={() => place.go({ station: "curves" })}>leave levels out at Curves</button>.
    </p>
  {:else if said.model === "quadratic"}
    <p class="note"><button class="lnk" onclick={() => way.say(batch, { model: "linear" })}>back to the straight line</button></p>
  {/if}
  {#if ready > 0}
    <p class="do">
      <button class="btn pri" title="Keeps all that stand without doubt, as one change" onclick={() => way.keep(batch, whole, [])}
        >{ready === 1 ? "Keep it" : `Keep all ${ready}`} <kbd>Shift Enter</kbd></button
      >
      <button
        class="lnk"
        title="Proposes none of them in this window"
        onclick={() =>
          way.refuse(
            batch,
            whole.proposals.map((p) => p.key),
          )}>Drop all</button
      >
    </p>
  {/if}
  {#if said.refused.length > 0}
    <p class="note">
      <button class="lnk" title="Proposes again what was refused" onclick={() => way.say(batch, { refused: [] })}
        >{count(said.refused.length, "refused proposal")} again</button
      >
    </p>
  {/if}
</section>
<section aria-label="Looked after">
  <h2>Looked after <span class="r">the usual mistakes</span></h2>
  {#each whole.looked_at as l (l.text)}
    <div class="look {l.state}">
      <span class="st"
        >{#if l.state === "wrong"}<Mark name="look" />{:else}{state[l.state as keyof typeof state]}{/if}</span
      >
      <span>{l.text}</span><span class="found">{l.found}</span>
    </div>
  {/each}
</section>

<style>
  .row {
    display: grid;
    grid-template-columns: 18px 1fr auto;
    gap: 0 2px;
    align-items: baseline;
    padding: 3px 0;
    border-bottom: 1px solid var(--mist-1);
    font-size: 12.5px;
  }
  .row.sel {
    background: var(--row-ai);
    box-shadow: inset 3px 0 0 var(--ai);
  }
  .row i {
    width: 9px;
    height: 9px;
    margin-left: 4px;
    border: 1.5px dotted var(--ai);
    border-radius: 50%;
  }
  .text {
    text-align: left;
    min-height: 24px;
  }
  .text .note {
    display: block;
  }
  .to {
    color: var(--ink-3);
    font-size: 12px;
    min-height: 24px;
  }
  .units {
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    gap: 2px 10px;
  }
  .units .field {
    width: 60px;
    font-size: 12.5px;
  }
  .do {
    display: flex;
    align-items: baseline;
    gap: 14px;
    margin: 10px 0 4px;
  }
  .look {
    display: grid;
    grid-template-columns: 18px 1fr;
    gap: 2px;
    font-size: 12.5px;
    line-height: 20px;
  }
  .look .st {
    color: var(--moss);
  }
  .look .found {
    grid-column: 2;
    line-height: 15px;
    padding-bottom: 3px;
    font-size: 12px;
    color: var(--ink-3);
  }
  .look.wrong,
  .look.wrong :is(.st, .found) {
    color: var(--kaki-text);
  }
  .look.open .st {
    color: var(--ink-3);
  }
</style>
