<script lang="ts">
  // A table where there may be more columns than room: the first ones stay, of the others as many whole ones are shown as fit,
  // since a number cut at its first digit is a wrong number. The line beneath tells which and brings the others; so do Shift and
  // the wheel, and the cell that is chosen.
  import { onDestroy, type Snippet } from "svelte";
  import type { HTMLAttributes } from "svelte/elements";

  let {
    stay,
    at = -1,
    children,
    ...rest
  }: {
    /** So many first columns stay. */
    stay: number;
    /** The column of the chosen cell, which is brought in; -1 for none. */
    at?: number;
    children: Snippet;
  } & HTMLAttributes<HTMLDivElement> = $props();

  const id = $props.id();
  const sheet = new CSSStyleSheet();
  document.adoptedStyleSheets.push(sheet);
  onDestroy(() => (document.adoptedStyleSheets = document.adoptedStyleSheets.filter((s) => s !== sheet)));

  let wrap = $state<HTMLElement>();
  let widths = $state.raw<number[]>([]); // of all columns, px; none where everything fits
  let room = $state(0);
  let first = $state(0); // the first column shown beside those that stay

  const fits = (from: number) => {
    let free = room - widths.slice(0, stay).reduce((a, b) => a + b, 0);
    let n = 0;
    while (from + n < widths.length && (free -= widths[from + n]!) >= 0) n++;
    return Math.max(1, n);
  };
  /** The last column to begin with: from there all to the end fit. */
  const last = $derived.by(() => {
    let from = widths.length - 1;
    while (from > stay && from - 1 + fits(from - 1) >= widths.length) from--;
    return Math.max(stay, from);
  });
  const begin = $derived(Math.max(stay, Math.min(last, first)));
  const end = $derived(widths.length ? begin + fits(begin) : 0); // the first column that is not shown any more

  $effect(() => {
    const cell = `[id="${id}"] :is(th, td)`;
    sheet.replaceSync(
      widths.length === 0
        ? ""
        : `${cell}:nth-child(n + ${stay + 1}):nth-child(-n + ${begin}):not([colspan]), ${cell}:nth-child(n + ${end + 1}) { display: none; }
           ${cell}:nth-child(${stay}) { border-right: 1px solid var(--mist-3); }`,
    );
  });
  $effect(() => {
    if (at < stay || widths.length === 0) return;
    if (at < begin) first = at;
    else if (at >= end) {
      let from = begin;
      while (from < at && from + fits(from) <= at) from++;
      first = from;
    }
  });

  function measure() {
    const table = wrap?.querySelector("table");
    if (!wrap || !table) return;
    const shown = sheet.cssRules.length > 0;
    const was = [...sheet.cssRules].map((r) => r.cssText).join("");
    if (shown) sheet.replaceSync("");
    wrap.classList.remove("paged");
    room = wrap.clientWidth;
    const now =
      table.offsetWidth > room ? [...table.querySelectorAll<HTMLElement>("thead tr:last-child th")].map((h) => h.offsetWidth) : [];
    if (shown) sheet.replaceSync(was);
    wrap.classList.toggle("paged", now.length > 0);
    if (JSON.stringify(now) !== JSON.stringify(widths)) widths = now;
  }
  $effect(() => {
    const table = wrap?.querySelector("table");
    if (!wrap || !table) return;
    let asked = 0;
    const later = () => (asked ||= requestAnimationFrame(() => ((asked = 0), measure())));
    const resized = new ResizeObserver(later);
    resized.observe(wrap);
    const changed = new MutationObserver(later);
    changed.observe(table, { childList: true, subtree: true, characterData: true });
    measure();
    return () => {
      cancelAnimationFrame(asked);
      resized.disconnect();
      changed.disconnect();
    };
  });
  function wheel(e: WheelEvent) {
    const by = e.shiftKey ? e.deltaY || e.deltaX : e.deltaX;
    if (widths.length === 0 || Math.abs(by) < 4 || (!e.shiftKey && Math.abs(e.deltaX) < Math.abs(e.deltaY))) return;
    e.preventDefault();
    first = Math.max(stay, Math.min(last, begin + Math.sign(by)));
  }
</script>

<div {...rest} class="grid-wrap {rest.class ?? ''}" {id} bind:this={wrap} onwheel={wheel}>{@render children()}</div>
{#if widths.length > 0}
  <label class="along note"
    ><input
      type="range"
      min={stay}
      max={last}
      value={begin}
      aria-label="Columns shown"
      aria-valuetext="{begin - stay + 1} to {end - stay} of {widths.length - stay}"
      title="Brings the other columns; Shift and the wheel do too"
      oninput={(e) => (first = e.currentTarget.valueAsNumber)}
    />columns {begin - stay + 1} – {end - stay} of {widths.length - stay}</label
  >
{/if}

<style>
  .along {
    display: flex;
    align-items: center;
    gap: 12px;
    margin: 0 12px 0 16px;
    height: 24px;
    flex: none;
    white-space: nowrap;
  }
  .along input {
    flex: 1;
    height: 24px;
    appearance: none;
    background: none;
  }
  .along input::-webkit-slider-runnable-track {
    height: 2px;
    background: var(--mist-2);
  }
  .along input::-webkit-slider-thumb {
    appearance: none;
    width: 44px;
    height: 6px;
    margin-top: -2px;
    background: var(--ink-2);
  }
  .along input::-moz-range-track {
    height: 2px;
    background: var(--mist-2);
  }
  .along input::-moz-range-thumb {
    border: 0;
    border-radius: 0;
    width: 44px;
    height: 6px;
    background: var(--ink-2);
  }
  .paged :global(table) {
    min-width: 0 !important;
  }
</style>
