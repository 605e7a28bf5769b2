<script lang="ts">
  // Help in its place: a sheet over the side column, so that nothing of the picture is hidden, and the station stays alive.
  import { createQuery } from "@tanstack/svelte-query";
  import { tick, untrack } from "svelte";
  import type { Batch, Result } from "../api/client";
  import { ask } from "../state/ask";
  import { keys } from "../state/keys.svelte";
  import { place } from "../state/place.svelte";
  import { formulas, helpOf, type Step } from "./help";
  import { sheet } from "./sheet.svelte";
  import { doneOf } from "./state";

  let { batch, result }: { batch: Batch | undefined; result: Result | undefined } = $props();
  const open = $derived(sheet.open);
  let paper = $state<HTMLElement>();
  const where = $derived(place.page === "bench" ? "bench" : place.page ? "" : place.batch === "" ? "shelf" : place.station);
  const section = $derived(helpOf(where));
  const studies = createQuery(() => ({ ...ask.studies(), enabled: open && where === "shelf" }));
  const review = createQuery(() => ask.review(batch?.id ?? "", open && where === "review" ? (batch?.revision ?? 0) : 0));
  const done = $derived(doneOf(batch, result, review.data, studies.data?.reduce((n, s) => n + s.batches.length, 0) ?? 0));
  const ring = $derived(sheet.ring);
  let keysHere = $state.raw<{ key: string; what: string }[]>([]);
  let before: Element | null = null;

  $effect(() => {
    if (!open) return;
    before = document.activeElement;
    // As they stand at the foot, with those that find no room there.
    keysHere = [...document.querySelectorAll("footer .hints > span")].map((hint) => {
      const names = [...hint.querySelectorAll("kbd")].map((k) => k.textContent);
      const words = hint.cloneNode(true) as HTMLElement;
      for (const k of words.querySelectorAll("kbd")) k.remove();
      return { key: names.join(" "), what: words.textContent.trim() };
    });
    void tick().then(() => {
      paper?.focus();
      if (sheet.formulas) document.getElementById("help-formulas")?.scrollIntoView();
    });
  });
  function close() {
    sheet.open = sheet.formulas = false;
    sheet.ring = undefined;
    if (before instanceof HTMLElement && before.isConnected) before.focus();
  }
  const shown = $derived(sheet.working?.steps.map((step) => ({ step, formula: formulas.get(step.rule) })) ?? []);
  const terms = (list: { text: string }[] | undefined) => (list ?? []).map((t) => t.text).join("");
  const sentence = (t: string) => t[0]!.toUpperCase() + t.slice(1);
  function bracketed(step: { top: { text: string }[]; bottom?: { text: string }[] | null }): string {
    const [top, bottom] = [terms(step.top), terms(step.bottom ?? undefined)];
    const together = (t: string) => (/ [+−] /.test(t) ? `(${t})` : t);
    return bottom ? `${together(top)} ÷ ${together(bottom)}` : top;
  }
  /** Rings the part of the screen that a step speaks of; where it lies under the sheet, the sheet stands aside. */
  function point(s: Step) {
    const part = document.querySelector(s.part);
    if (part) sheet.point(part, s.text);
  }
  const aside = $derived(ring !== undefined && ring.left + ring.width > innerWidth - 300);
  $effect(() =>
    keys({
      "?": () => (open ? close() : (sheet.open = section !== undefined)),
      ...(open || ring ? { Escape: () => (ring ? (sheet.ring = undefined) : close()) } : {}),
    }),
  );
  $effect(() => {
    void [place.page, place.batch, place.station];
    untrack(() => (sheet.ring = undefined));
  });
</script>

{#if ring}
  <button
    class="ring"
    style:left="{ring.left}px"
    style:top="{ring.top}px"
    style:width="{ring.width}px"
    style:height="{ring.height}px"
    title="Enough of pointing"
    aria-label="Enough of pointing"
    onclick={() => (sheet.ring = undefined)}
  ></button>
{/if}
{#if open && section}
  <section class="help" class:aside bind:this={paper} tabindex="-1" aria-label="Help">
    <h2>{section.name} <button class="lnk" title="Closes the help (?)" onclick={close}>close</button></h2>
    <p class="purpose">{section.purpose}</p>
    <ol>
      {#each section.steps as s (s.text)}
        <li class:done={s.done && done[s.done]}>
          <span class="tick" title={s.done ? (done[s.done] ? "done" : "not done yet") : "as you like"}
            >{s.done && done[s.done] ? "✓" : s.done ? "○" : "·"}</span
          >
          <span
            >{s.text}
            {#if s.part}<button class="lnk" title="Rings the part on the screen that is meant" onclick={() => point(s)}>point to it</button
              >{/if}</span
          >
        </li>
      {/each}
    </ol>
    {#if section.words.length}
      <h3>Words</h3>
      <dl>
        {#each section.words as w (w.word)}<dt>{w.word}</dt>
          <dd>{w.meaning}</dd>{/each}
      </dl>
    {/if}
    {#if keysHere.length}
      <h3>Keys</h3>
      <dl class="keys">
        {#each keysHere as k, i (i)}<dt><kbd>{k.key}</kbd></dt>
          <dd>{k.what}</dd>{/each}
      </dl>
    {/if}
    {#if shown.length}
      <h3 id="help-formulas">How and from where</h3>
      <p class="note">{sheet.working?.subject}, as it is reckoned</p>
      {#each shown as { step, formula }, i (i)}
        <div class="rule">
          <b>{formula?.name ?? step.title}</b>
          {#if formula}<p class="f">{formula.text}</p>
            {#if formula.meaning}<p class="why">{sentence(formula.meaning)}</p>{/if}{/if}
          <p class="why">
            Here: {bracketed(step)} = <span class="num">{step.result}</span>
          </p>
        </div>
      {/each}
    {/if}
    {#if sheet.formulas && shown.length === 0}
      <h3 id="help-formulas">Formulas</h3>
      {#each formulas.values() as f (f.rule)}
        <div class="rule">
          <b>{f.name}</b>
          <p class="f">{f.text}</p>
          {#if f.meaning}<p class="why">{sentence(f.meaning)}</p>{/if}
        </div>
      {/each}
    {/if}
    <p class="note">Ctrl K finds or does anything, also what is told here.</p>
  </section>
{/if}

<style>
  .help {
    position: fixed;
    top: 41px;
    right: 0;
    bottom: 24px;
    width: 309px;
    max-width: 92vw;
    padding: 14px 16px;
    overflow: auto;
    background: var(--paper);
    border-left: 1px solid var(--ink-3);
    z-index: 25;
  }
  .help.aside {
    right: auto;
    left: 0;
    border-left: 0;
    border-right: 1px solid var(--ink-3);
  }
  h2 {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  h2 button {
    font: 12.5px var(--f-ui);
  }
  .help:focus {
    outline: none;
  }
  .purpose {
    font: 15px/21px var(--f-read);
    margin: 4px 0 10px;
  }
  li {
    display: grid;
    grid-template-columns: 18px 1fr;
    gap: 4px;
    padding: 4px 0;
    border-bottom: 1px solid var(--mist-1);
    font-size: 13px;
  }
  li.done {
    color: var(--ink-2);
  }
  li button {
    min-height: 24px;
  }
  h3 {
    font: 500 15px/22px var(--f-read);
    margin-top: 12px;
  }
  dt {
    font-weight: 600;
    margin-top: 5px;
    font-size: 13px;
  }
  dd {
    font-size: 13px;
    color: var(--ink-2);
  }
  .keys {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 2px 10px;
    align-items: baseline;
  }
  .keys dt {
    margin: 0;
    font-weight: 400;
  }
  .rule {
    border-top: 1px solid var(--mist-1);
    padding: 5px 0;
    font-size: 13px;
    overflow-wrap: anywhere;
  }
  .f {
    font: 500 14.5px/1.4 var(--f-read);
  }
  .why {
    color: var(--ink-2);
  }
  .note {
    margin-top: 14px;
  }
  .ring {
    position: fixed;
    z-index: 24;
    border: 2px solid var(--kaki);
    background: transparent;
    cursor: default;
  }
</style>
