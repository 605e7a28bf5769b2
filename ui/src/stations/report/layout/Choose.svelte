<script lang="ts">
  // All layouts by their true first pages, drawn with this batch by the same renderer: arrows move, Enter takes, Esc stays.
  import { createQueries } from "@tanstack/svelte-query";
  import type { Batch, KeptLayout } from "../../../api/client";
  import { ask } from "../../../state/ask";
  import { keys } from "../../../state/keys.svelte";
  import { eachWords } from "./blocks";

  let {
    batch,
    layouts,
    open,
    injection,
    sample,
    take,
    stay,
  }: {
    batch: Batch;
    layouts: KeptLayout[];
    open: string;
    injection: string;
    sample: string;
    take: (id: string) => void;
    stay: () => void;
  } = $props();
  let typed = $state("");
  const shown = $derived(layouts.filter((l) => l.layout.name.toLowerCase().includes(typed.trim().toLowerCase())));
  // svelte-ignore state_referenced_locally (it begins at the one that is open)
  let at = $state(open);
  const pages = createQueries(() => ({
    queries: shown.map((l) =>
      ask.drawn(
        batch.id,
        batch.revision,
        l.layout,
        l.layout.each === "injection" ? injection : "",
        l.layout.each === "sample" ? sample : "",
        batch.settled.join(" "),
      ),
    ),
  }));
  const word = (l: KeptLayout) => eachWords.find(([each]) => each === l.layout.each)?.[1] ?? "";
  function step(by: number) {
    const k = shown.findIndex((l) => l.id === at);
    const next = shown[Math.max(0, Math.min(shown.length - 1, k + by))];
    if (!next) return;
    at = next.id;
    document.querySelector(`[data-layout="${CSS.escape(next.id)}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }
  function press(e: KeyboardEvent) {
    if (e.key === "ArrowRight" || e.key === "ArrowLeft") {
      e.preventDefault();
      step(e.key === "ArrowRight" ? 1 : -1);
    } else if (e.key === "Enter" && shown.some((l) => l.id === at)) take(at);
    else if (e.key === "Escape") stay();
    else return;
    e.stopPropagation();
  }
  $effect(() => keys({ Escape: stay }));
  function begin(field: HTMLInputElement) {
    field.focus();
  }
</script>

<div class="choose" role="dialog" aria-label="Layouts" aria-modal="false" tabindex="-1" onkeydown={press}>
  <p class="top">
    <span class="note">each filled with this batch</span>
    <input class="field" placeholder="type a name" title="Shows those whose name has it" bind:value={typed} {@attach begin} />
    <button class="lnk" title="Stays with the one that is open (Esc)" onclick={stay}>stay</button>
  </p>
  <div class="pages">
    {#each shown as l, k (l.id)}
      <button
        class="one"
        class:on={l.id === at}
        data-layout={l.id}
        title="Takes {l.layout.name}"
        onclick={() => take(l.id)}
        onfocus={() => (at = l.id)}
      >
        <span class="page" style:aspect-ratio={l.layout.landscape ? "1.414" : "0.707"} aria-hidden="true">
          {#if pages[k]?.data?.pages[0]}
            <!-- eslint-disable-next-line svelte/no-at-html-tags -- drawn by our own server, which escapes every text in it -->
            {@html pages[k].data.pages[0]}
          {:else if pages[k]?.isError}<i>{pages[k].error?.message}</i>{/if}
        </span>
        <b>{l.layout.name}</b>
        <span class="note">version {l.version}, each {word(l)}</span>
      </button>
    {:else}<p class="note">No layout is called so.</p>{/each}
  </div>
</div>

<style>
  .choose {
    border-bottom: 1px solid var(--ink-3);
    padding: 2px 16px 12px;
    background: var(--paper);
    flex: none;
  }
  .top {
    display: flex;
    gap: 16px;
    align-items: baseline;
    margin-bottom: 6px;
  }
  .top .field {
    margin-left: auto;
    width: 160px;
  }
  .pages {
    display: flex;
    gap: 14px;
    overflow-x: auto;
  }
  .one {
    flex: none;
    width: 148px;
    text-align: left;
    display: grid;
    align-content: end;
  }
  .one b {
    font: 400 14.5px/20px var(--f-read);
    margin-top: 4px;
  }
  .page {
    display: block;
    background: #fffefb;
    border: 1px solid var(--mist-2);
    overflow: hidden;
    font-size: 11px;
    color: #5d626c;
  }
  .page :global(svg) {
    display: block;
    width: 100%;
  }
  .one.on .page {
    outline: 2px solid var(--kaki);
    outline-offset: 1px;
  }
</style>
