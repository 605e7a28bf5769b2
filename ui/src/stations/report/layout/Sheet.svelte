<script lang="ts">
  // One page as the server draws it, with marks over it that are never printed: what is chosen, where it can go, what is missing.
  import type { Box, Drawn } from "../../../api/client";
  import { kinds } from "./blocks";
  import { draft, type Gap } from "./draft.svelte";

  let {
    drawn,
    page,
    write,
    writing = $bindable(),
    carried,
    carry,
  }: {
    drawn: Drawn;
    page: number;
    /** Opens the words of a block for writing. */ write: (id: string) => void;
    /** The block whose words are written here. */ writing: string;
    /** The kind or block that is being carried, and where it would be put. */
    carried: { kind: string; id: string; to?: Gap | undefined } | undefined;
    carry: (event: PointerEvent, id: string) => void;
  } = $props();
  let wide = $state(1);
  const mm = $derived(wide / drawn.width_mm);
  const boxes = $derived(drawn.boxes.filter((b) => b.page === page));
  const blocks = $derived(boxes.filter((b) => !b.part && draft.where(b.block)));
  const chosen = $derived(blocks.find((b) => b.block === draft.selected));
  const kind = $derived(kinds[draft.block?.kind ?? ""]);
  const columns = $derived(boxes.filter((b) => b.block === draft.selected && b.part?.startsWith("column:")));
  const values = $derived(boxes.filter((b) => b.part?.startsWith("value:")));
  const lacks = $derived(drawn.missing.filter((m) => blocks.some((b) => b.block === m.block)));
  /** The click that follows a drag chooses nothing. */
  function swallow() {
    const away = (e: Event) => e.stopPropagation();
    addEventListener("click", away, { capture: true, once: true });
    setTimeout(() => removeEventListener("click", away, true), 0);
  }
  /** Marks over the columns of a table move their widths, where the block says which columns it has. */
  const own = $derived(draft.block?.values?.length === columns.length ? (draft.block.values ?? []) : []);
  function widen(event: PointerEvent, k: number, from: number) {
    event.preventDefault();
    event.stopPropagation();
    const id = draft.selected;
    const values = own;
    const moved = (e: PointerEvent) =>
      (dragging = { k, wide: Math.round(Math.max(5, Math.min(200, from + (e.clientX - event.clientX) / mm))) });
    const done = () => {
      removeEventListener("pointermove", moved);
      removeEventListener("pointerup", done);
      swallow();
      const to = dragging;
      dragging = undefined;
      if (to) draft.change({ values: values.map((v, n) => (n === to.k ? { ...v, width_mm: to.wide } : v)) }, id);
    };
    addEventListener("pointermove", moved);
    addEventListener("pointerup", done);
  }
  let dragging = $state.raw<{ k: number; wide: number }>();
  const written = $derived(blocks.find((b) => b.block === writing));
  const words = $derived(
    (draft.layout?.rows.flat().find((b) => b.id === writing) as { text?: string; size_pt?: number } | undefined) ?? {},
  );
  let text = $state("");
  function begin(area: HTMLTextAreaElement) {
    text = words.text ?? "";
    setTimeout(() => {
      area.focus();
      area.select();
    }, 0);
  }
  function end(keep: boolean) {
    const id = writing;
    if (!id) return;
    writing = "";
    if (keep) draft.change({ text: text === "" ? undefined : text }, id);
  }
  const px = (v: number) => `${(v * mm).toFixed(1)}px`;

  /** The line where a block would be put down. */
  const mark = $derived.by(() => {
    const to = carried?.to;
    if (!to || !draft.layout) return undefined;
    const of = (row: number) => blocks.filter((b) => draft.where(b.block)?.row === row);
    if (to.beside !== undefined) {
      const row = of(to.row).sort((a, b) => a.x - b.x);
      const next = row[to.beside];
      const before = row[to.beside - 1];
      const at = next ?? before;
      if (!at) return undefined;
      return { x: next ? next.x - 1 : before!.x + before!.width + 1, y: at.y, width: 0, height: at.height };
    }
    const below = of(to.row)[0];
    const above = of(to.row - 1)[0];
    const at = below ?? above;
    if (!at) return undefined;
    const all = blocks;
    const left = Math.min(...all.map((b) => b.x));
    const right = Math.max(...all.map((b) => b.x + b.width));
    return {
      x: left,
      y: below ? below.y - 0.5 : above!.y + Math.max(...of(to.row - 1).map((b) => b.height)),
      width: right - left,
      height: 0,
    };
  });

  function stretch(event: PointerEvent, box: Box, way: "wide" | "high") {
    event.preventDefault();
    event.stopPropagation();
    const from = way === "wide" ? event.clientX : event.clientY;
    const margins = draft.layout!.margin_mm;
    const column = (drawn.width_mm - margins.left - margins.right) / 12;
    const at = draft.where(box.block)!;
    const columnsNow = draft.widths(draft.layout!.rows[at.row]!)[at.column]!;
    const own = (draft.block as { height_mm?: number }).height_mm ?? kind?.height ?? 40;
    const moved = (e: PointerEvent) => {
      const by = ((way === "wide" ? e.clientX : e.clientY) - from) / mm;
      if (way === "wide") draft.widen(box.block, Math.round(columnsNow + by / column));
      else draft.change({ height_mm: Math.round(Math.max(10, Math.min(240, own + by))) }, box.block);
    };
    const done = () => {
      swallow();
      removeEventListener("pointermove", moved);
      removeEventListener("pointerup", done);
    };
    addEventListener("pointermove", moved);
    addEventListener("pointerup", done);
  }
</script>

<div class="sheet" style:aspect-ratio="{drawn.width_mm} / {drawn.height_mm}" bind:clientWidth={wide} data-page={page}>
  <!-- eslint-disable-next-line svelte/no-at-html-tags -- drawn by our own server, which escapes every text in it -->
  {@html drawn.pages[page]}
  <div class="marks">
    {#each blocks as b, k (k)}
      {@const name = kinds[draft.layout?.rows.flat().find((o) => o.id === b.block)?.kind ?? ""]?.word ?? ""}
      <button
        class="block"
        class:on={b.block === draft.selected}
        class:gone={carried?.id === b.block}
        style:left={px(b.x - 1.5)}
        style:top={px(b.y)}
        style:width={px(b.width + 3)}
        style:height={px(b.height)}
        title="{name}: chooses it; twice writes in it"
        aria-label="{name}{b.block === draft.selected ? ', chosen' : ''}"
        data-block={b.block}
        tabindex="-1"
        onclick={(e) => {
          e.stopPropagation();
          draft.selected = b.block;
        }}
        ondblclick={() => write(b.block)}
      ></button>
    {/each}
    {#each values as v, k (k)}
      <i class="value" style:left={px(v.x)} style:top={px(v.y + v.height)} style:width={px(v.width)}></i>
    {/each}
    {#if chosen && !carried}
      <button
        class="grip"
        style:left={px(chosen.x - 9)}
        style:top={px(chosen.y + 1)}
        title="{kind?.word}: drag it to another place"
        aria-label="Grip of {kind?.word}"
        onpointerdown={(e) => carry(e, chosen.block)}>⠿</button
      >
      {#each columns as c, k (k)}
        {@const wide = dragging?.k === k ? dragging.wide : c.width}
        {#if own.length}<!-- svelte-ignore a11y_no_static_element_interactions (the side column has the same as a field) -->
          <i
            class="column drag"
            style:left={px(c.x + wide - 1)}
            style:top={px(c.y)}
            title="Width of this column, {wide.toFixed(0)} mm"
            onpointerdown={(e) => widen(e, k, c.width)}
          ></i>{:else}<i class="column" style:left={px(c.x)} style:top={px(c.y)}></i>{/if}
        {#if dragging?.k === k}<b class="mm" style:left={px(c.x + wide)} style:top={px(c.y - 4)}>{wide} mm</b>{/if}
      {/each}
      {#if !kind?.alone}
        <!-- svelte-ignore a11y_no_static_element_interactions (the keys + and − do the same) -->
        <i
          class="wider"
          style:left={px(chosen.x + chosen.width + 1)}
          style:top={px(chosen.y + chosen.height / 2 - 4)}
          title="Width, by columns: + and −"
          onpointerdown={(e) => stretch(e, chosen, "wide")}
        ></i>
      {/if}
      {#if kind?.height}
        <!-- svelte-ignore a11y_no_static_element_interactions (the side column has the same as a field) -->
        <i
          class="higher"
          style:left={px(chosen.x + chosen.width / 2 - 5)}
          style:top={px(chosen.y + chosen.height - 0.5)}
          title="Height"
          onpointerdown={(e) => stretch(e, chosen, "high")}
        ></i>
      {/if}
    {/if}
    {#if written}
      <textarea
        class="write"
        aria-label="The words of this block"
        title="Values stand in braces; Escape leaves it as it was, Ctrl Enter or a click elsewhere keeps it"
        style:left={px(written.x - 1.5)}
        style:top={px(written.y)}
        style:width={px(written.width + 3)}
        style:min-height={px(Math.max(written.height, 8))}
        style:font-size="{Math.max(11, (words.size_pt ?? 9) * 0.3528 * mm)}px"
        bind:value={text}
        {@attach begin}
        onclick={(e) => e.stopPropagation()}
        onblur={() => end(true)}
        onkeydown={(e) => {
          e.stopPropagation();
          if (e.key === "Escape") end(false);
          else if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) end(true);
        }}></textarea>
    {/if}
    {#if mark}<i
        class="here"
        style:left={px(mark.x)}
        style:top={px(mark.y)}
        style:width={px(Math.max(mark.width, 0.6))}
        style:height={px(Math.max(mark.height, 0.6))}
      ></i>{/if}
  </div>
  {#if lacks.length && page === 0}
    <p class="lacks">
      {lacks
        .map((m) => m.words.toLowerCase())
        .filter((w, k, all) => all.indexOf(w) === k)
        .slice(0, 4)
        .join(", ")} missing here
    </p>
  {/if}
</div>

<style>
  .sheet {
    position: relative;
    width: 100%;
    background: #fffefb;
    flex: none;
  }
  .sheet :global(svg) {
    width: 100%;
    height: 100%;
    display: block;
  }
  .marks {
    position: absolute;
    inset: 0;
  }
  .block {
    position: absolute;
    border: 1px solid transparent;
    background: none;
    padding: 0;
    cursor: default;
  }
  .block:hover {
    border-color: #c9c4b6;
  }
  .block.on {
    border: 2px solid #a83d1a;
  }
  .block.gone {
    border: 1px dashed #a83d1a;
  }
  .value {
    position: absolute;
    border-top: 1px dotted #444954;
    pointer-events: none;
  }
  .grip {
    position: absolute;
    color: #a83d1a;
    cursor: grab;
    font-size: 15px;
    line-height: 18px;
    width: 20px;
    touch-action: none;
    background: none;
  }
  .column {
    position: absolute;
    width: 0;
    height: 10px;
    border-left: 1px solid #a83d1a;
    pointer-events: none;
  }
  .column.drag {
    width: 7px;
    height: 14px;
    border-left: 0;
    background: linear-gradient(#a83d1a 0 0) 3px 0 / 1.5px 100% no-repeat;
    cursor: ew-resize;
    pointer-events: auto;
    touch-action: none;
  }
  .mm {
    position: absolute;
    font-size: 11px;
    color: #a83d1a;
    background: #fffefb;
  }
  .write {
    position: absolute;
    z-index: 2;
    font-family: var(--f-read);
    line-height: 1.35;
    color: #1b1e25;
    background: #fffefb;
    border: 2px solid #24476b;
    padding: 1px 3px;
    resize: vertical;
  }
  .wider,
  .higher {
    position: absolute;
    background: #fffefb;
    border: 1.5px solid #a83d1a;
    touch-action: none;
  }
  .wider {
    width: 7px;
    height: 24px;
    cursor: ew-resize;
  }
  .higher {
    width: 30px;
    height: 7px;
    cursor: ns-resize;
  }
  .here {
    position: absolute;
    background: #24476b;
    pointer-events: none;
  }
  .lacks {
    position: absolute;
    right: calc(100% + 10px);
    top: 90px;
    width: 104px;
    text-align: right;
    color: var(--kaki);
    font-size: 12.5px;
    line-height: 1.35;
  }
</style>
