<script lang="ts">
  // All blocks: dragged or chosen they come onto the page. Dark are those that are on it. Below, the page in little.
  import type { Drawn } from "../../../api/client";
  import { kinds } from "./blocks";
  import { draft } from "./draft.svelte";

  let {
    drawn,
    carry,
    adding = $bindable(),
  }: { drawn: Drawn | undefined; carry: (e: PointerEvent, kind: string) => void; adding: boolean } = $props();
  let typed = $state("");
  let field = $state<HTMLInputElement>();
  $effect(() => {
    if (adding) setTimeout(() => field?.focus(), 30);
    else typed = "";
  });
  const all = Object.entries(kinds);
  const shown = $derived(adding && typed ? all.filter(([, k]) => k.word.toLowerCase().includes(typed.toLowerCase())) : all);
  const on = $derived(new Set(draft.layout?.rows.flat().map((b) => b.kind)));
  function take(kind: string | undefined) {
    if (!kind) return;
    draft.add(kind);
    adding = false;
  }
  const small = $derived(drawn?.pages[0] ?? "");
</script>

<div class="rail" role="toolbar" aria-label="Blocks" aria-orientation="vertical">
  <h2>Blocks</h2>
  {#if adding}
    <input
      class="field"
      bind:this={field}
      bind:value={typed}
      placeholder="which block"
      aria-label="Block to add"
      onkeydown={(e) => {
        if (e.key === "Enter") take(shown[0]?.[0]);
        if (e.key === "Escape") adding = false;
      }}
      onblur={() => (adding = false)}
    />
  {/if}
  {#each shown as [kind, k] (kind)}
    <button
      class="kind"
      class:on={on.has(kind)}
      class:chosen={draft.block?.kind === kind}
      title="{k.word}: {k.says}. Drag it to its place, or press to add it after what is chosen"
      onpointerdown={(e) => carry(e, kind)}
      onkeydown={(e) => {
        if (e.key === "Enter" || e.key === " ") {
          e.preventDefault();
          take(kind);
        }
      }}
    >
      <svg width="16" height="12" viewBox="0 0 16 12" aria-hidden="true">
        {#if kind === "chromatogram"}<path d="M0 10H3L5 3L7 10L9 7L11 10H16" />
        {:else if kind === "curve"}<path d="M1 0V11H16M2 10L14 2" />
        {:else if ["peaks", "results", "groups", "summary", "checks", "screening", "resolved", "record"].includes(kind)}<path
            d="M0 2H16M0 6H16M0 10H16M6 0V12"
          />
        {:else if kind === "picture"}<path d="M1 1H15V11H1ZM1 9L6 5L10 9L12 7L15 10" />
        {:else if kind === "line"}<path d="M0 6H16" />
        {:else if kind === "break"}<path d="M0 4V1H16V4M0 8V11H16V8M0 6H3M6 6H10M13 6H16" />
        {:else if kind === "signatures"}<path d="M0 10H16M2 8C5 0 7 0 7 4S4 9 9 7L13 6" />
        {:else if kind === "head"}<path d="M3 0H13V12H3ZM5 2H11" />
        {:else if kind === "foot"}<path d="M3 0H13V12H3ZM5 10H11" />
        {:else if kind === "heading"}<path d="M0 4H9" stroke-width="3" /><path d="M0 9H13" />
        {:else}<path d="M0 2H14M0 6H16M0 10H9" />{/if}
      </svg>{k.word}</button
    >
  {/each}
  <p class="note">Drag one to its place, or <kbd>A</kbd> and type. Dark: on the page.</p>
  {#if small}
    <!-- eslint-disable-next-line svelte/no-at-html-tags -- drawn by our own server, which escapes every text in it -->
    <div class="small" aria-hidden="true">{@html small}</div>
  {/if}
</div>

<style>
  .rail {
    width: 148px;
    flex: none;
    overflow: auto;
    padding: 4px 10px 10px 16px;
    border-right: 1px solid var(--mist-1);
  }
  .kind {
    display: flex;
    gap: 8px;
    align-items: center;
    width: 100%;
    text-align: left;
    font-size: 12.5px;
    line-height: 20.5px;
    color: var(--ink-3);
    cursor: grab;
    touch-action: none;
    user-select: none;
  }
  .kind.on {
    color: var(--ink);
  }
  .kind.chosen {
    color: var(--kaki);
    box-shadow: -16px 0 0 -13px var(--kaki);
  }
  .kind svg path {
    fill: none;
    stroke: currentColor;
    stroke-width: 1.1;
  }
  .small {
    width: 88px;
    background: #fffefb;
    border: 1px solid var(--mist-2);
  }
  .small :global(svg) {
    display: block;
    width: 100%;
  }
</style>
