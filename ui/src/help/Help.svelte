<script lang="ts">
  // Help in its place: a sheet over the side column, so that nothing of the picture is hidden, and the station stays alive.
  import { createQuery } from "@tanstack/svelte-query";
  import { tick } from "svelte";
  import type { Batch, Result } from "../api/client";
  import { ask } from "../state/ask";
  import { keys } from "../state/keys.svelte";
  import { place } from "../state/place.svelte";
  import { helpOf, type Step } from "./help";
  import { doneOf } from "./state";

  let { batch, result }: { batch: Batch | undefined; result: Result | undefined } = $props();
  let open = $state(false);
  let sheet = $state<HTMLElement>();
  const where = $derived(place.page === "bench" ? "bench" : place.page ? "" : place.batch === "" ? "shelf" : place.station);
  const section = $derived(helpOf(where));
  const studies = createQuery(() => ({ ...ask.studies(), enabled: open && where === "shelf" }));
  const review = createQuery(() => ask.review(batch?.id ?? "", open && where === "review" ? (batch?.revision ?? 0) : 0));
  const done = $derived(doneOf(batch, result, review.data, studies.data?.reduce((n, s) => n + s.batches.length, 0) ?? 0));
  let ring = $state<{ left: number; top: number; width: number; height: number; text: string }>();
  let before: Element | null = null;

  async function show() {
    if (!section) return;
    before = document.activeElement;
    open = true;
    await tick();
    sheet?.focus();
  }
  function close() {
    open = false;
    ring = undefined;
    if (before instanceof HTMLElement && before.isConnected) before.focus();
  }
  /** Rings the part of the screen that a step speaks of; where it lies under the sheet, the sheet stands aside. */
  function point(s: Step) {
    const part = document.querySelector(s.part);
    if (!part) return;
    part.scrollIntoView({ block: "nearest" });
    const r = part.getBoundingClientRect();
    ring = {
      left: Math.max(2, r.left - 3),
      top: Math.max(2, r.top - 3),
      width: Math.min(r.width + 6, innerWidth - 4 - Math.max(2, r.left - 3)),
      height: Math.min(r.height + 6, innerHeight - 4 - Math.max(2, r.top - 3)),
      text: s.text,
    };
  }
  const aside = $derived(ring !== undefined && ring.left + ring.width > innerWidth - 300);
  $effect(() =>
    keys({ "?": () => (open ? close() : void show()), ...(open ? { Escape: () => (ring ? (ring = undefined) : close()) } : {}) }),
  );
  $effect(() => {
    void where;
    ring = undefined;
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
    onclick={() => (ring = undefined)}
  ></button>
{/if}
{#if open && section}
  <section class="help" class:aside bind:this={sheet} tabindex="-1" aria-label="Help">
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
    <p class="note">Keys of this place stand at the foot. Ctrl K finds or does anything.</p>
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
