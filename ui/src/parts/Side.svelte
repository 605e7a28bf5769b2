<script lang="ts">
  // The side column of a station. In a narrow window its headings are words over the page, and each opens it as a sheet at its place;
  // what is previewed then waits in a line over the foot, so that closing the sheet never hides it.
  import { tick, type Snippet } from "svelte";
  import { keys } from "../state/keys.svelte";
  import { narrow } from "../state/narrow.svelte";

  let { children, waiting }: { children: Snippet; /** What is previewed, with keep and discard. */ waiting?: Snippet | undefined } =
    $props();

  let side = $state<HTMLElement>();
  let words = $state<{ text: string; count: string }[]>([]);
  let from: Element | null = null; // what had the focus when the sheet was opened
  const shut = $derived(narrow.is && !narrow.open);

  const headings = () => [...(side?.querySelectorAll("section h2, section h3") ?? [])] as HTMLElement[];
  const textOf = (h: HTMLElement) =>
    [...h.childNodes]
      .filter((n) => n.nodeType === Node.TEXT_NODE)
      .map((n) => n.textContent!.trim())
      .join(" ")
      .trim();
  function read() {
    const now = headings()
      .map((h) => ({ text: textOf(h), count: h.dataset.count ?? "" }))
      .filter((w) => w.text);
    if (JSON.stringify(now) !== JSON.stringify(words)) words = now;
  }
  $effect(() => {
    if (!side || !narrow.is) return;
    read();
    const watch = new MutationObserver(read);
    watch.observe(side, { childList: true, subtree: true, characterData: true, attributeFilter: ["data-count"] });
    return () => watch.disconnect();
  });

  async function open(text = "") {
    from ??= document.activeElement;
    narrow.open = true;
    await tick();
    const at = headings().find((h) => textOf(h) === text);
    at?.scrollIntoView({ block: "start" });
    const target = at?.closest("section")?.querySelector<HTMLElement>("button, a, input, select, [tabindex='0']") ?? side;
    target?.focus({ preventScroll: true });
  }
  function close() {
    narrow.open = false;
    if (from instanceof HTMLElement && from.isConnected) from.focus();
    from = null;
  }
  $effect(() => keys({ "shift+u": () => narrow.is && (narrow.open ? close() : open()) }));
</script>

{#if shut}
  <nav class="words" aria-label="Side column">
    {#each words as w (w.text)}
      <button title="Opens the side column at {w.text}" onclick={() => open(w.text)}
        >{w.text}{#if w.count}<sup>{w.count}</sup>{/if}</button
      >
    {/each}
  </nav>
  {#if waiting}<div class="waiting">{@render waiting()}</div>{/if}
{/if}
<!-- svelte-ignore a11y_no_noninteractive_element_interactions (Escape closes what opened over the page) -->
<aside
  class="side"
  hidden={shut}
  tabindex="-1"
  bind:this={side}
  onkeydown={(e) => {
    if (e.key !== "Escape" || !narrow.is || waiting || (e.target as Element).closest("input, select, textarea")) return;
    e.preventDefault();
    e.stopPropagation();
    close();
  }}
>
  {#if narrow.is}
    <nav class="tabs" aria-label="Parts of the side column">
      {#each words as w (w.text)}
        <button title="Goes to {w.text}" onclick={() => open(w.text)}
          >{w.text}{#if w.count}<sup>{w.count}</sup>{/if}</button
        >
      {/each}
      <button class="close" aria-label="Close the side column" title="Closes the side column (Shift U)" onclick={close}>✕</button>
    </nav>
  {/if}
  {@render children()}
</aside>

<style>
  .words {
    grid-area: 1 / 1;
    display: flex;
    justify-content: flex-end;
    flex-wrap: wrap;
    gap: 0 18px;
    padding: 2px 16px 0;
    font-size: 12.5px;
  }
  .words button,
  .tabs button {
    min-height: 24px;
    color: var(--ai);
    white-space: nowrap;
  }
  sup {
    font-size: 11px;
    line-height: 0;
    font-weight: 600;
    color: var(--kaki-text);
    margin-left: 2px;
  }
  .waiting {
    grid-area: 3 / 1;
    display: flex;
    align-items: center;
    gap: 12px;
    min-height: 36px;
    padding: 4px 16px;
    border-top: 1px solid var(--mist-3);
  }
  .side {
    grid-area: 1 / 2 / 4;
  }
  .tabs {
    position: sticky;
    top: -12px;
    z-index: 3;
    background: var(--paper);
    display: flex;
    flex-wrap: wrap;
    gap: 0 14px;
    margin: -12px 0 8px;
    padding: 6px 26px 4px 0;
    font-size: 12.5px;
    border-bottom: 1px solid var(--mist-1);
  }
  .tabs .close {
    position: absolute;
    right: 0;
    top: 6px;
    min-width: 24px;
    color: var(--ink-2);
  }
</style>
