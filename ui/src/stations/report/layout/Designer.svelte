<script lang="ts">
  // The page itself is where it is laid out: the server draws it, and what can be done to it lies over it and beside it, never in the print.
  import { createQuery } from "@tanstack/svelte-query";
  import { tick, type Snippet } from "svelte";
  import { answer, api } from "../../../api/client";
  import Choice from "../../../parts/Choice.svelte";
  import Foot from "../../../parts/Foot.svelte";
  import Side from "../../../parts/Side.svelte";
  import { ask } from "../../../state/ask";
  import { desk, replicate } from "../../../state/desk.svelte";
  import { keys } from "../../../state/keys.svelte";
  import { place } from "../../../state/place.svelte";
  import type { StationProps } from "../../props";
  import { kinds } from "./blocks";
  import Choose from "./Choose.svelte";
  import { draft, type Gap } from "./draft.svelte";
  import Options from "./Options.svelte";
  import PageOptions from "./PageOptions.svelte";
  import Rail from "./Rail.svelte";
  import Sheet from "./Sheet.svelte";

  let { batch, index, tabs }: StationProps & { tabs: Snippet } = $props();
  const list = createQuery(() => ask.layouts(batch.id));
  const kept = $derived(list.data?.find((l) => l.id === place.query.layout) ?? list.data?.[0]);
  $effect(() => {
    if (kept) draft.follow(batch.id, kept);
  });
  const injection = $derived(batch.injections[index]);
  const each = $derived(draft.layout?.each ?? "injection");
  /** What the page is filled with: the chosen injection, or the sample that it is of. */
  const sample = $derived(
    each === "sample"
      ? injection?.role === "sample"
        ? injection.name
        : (batch.injections.find((i) => i.role === "sample")?.name ?? "")
      : "",
  );
  const query = createQuery(() =>
    ask.drawn(
      batch.id,
      batch.revision,
      batch.injections.length > 0 ? draft.layout : undefined,
      each === "injection" ? (injection?.id ?? "") : "",
      sample,
      batch.settled.join(" "),
    ),
  );
  let last = $state.raw<typeof query.data>();
  $effect(() => {
    if (query.data) last = query.data;
  });
  const drawn = $derived(query.data ?? last);
  let slow = $state(false);
  $effect(() => {
    if (!query.isFetching) {
      slow = false;
      return;
    }
    const later = setTimeout(() => (slow = true), 500);
    return () => clearTimeout(later);
  });
  let size = $state<"page" | "width">("width");
  let surface = $state<HTMLElement>();
  $effect(() => {
    const chosen = draft.selected;
    if (chosen && drawn) void tick().then(() => surface?.querySelector(`[data-block="${chosen}"]`)?.scrollIntoView({ block: "nearest" }));
  });
  let adding = $state(false);
  let options = $state<{ write: () => void }>();

  async function use(id: string) {
    if (draft.dirty) {
      draft.trouble = "This layout has changes that are not kept. Keep or discard them first.";
      return;
    }
    place.go({ query: { layout: id } }, false);
    await answer(api.POST("/api/batches/{batch}/layouts/used", { params: { path: { batch: batch.id } }, body: { id } })).catch(
      () => undefined,
    );
  }

  let carried = $state.raw<{ kind: string; id: string; to?: Gap | undefined }>();
  /** Where the pointer would put a block: over the left or right third of a block beside it, else between two rows. */
  function gapAt(x: number, y: number, kind: string, id: string): Gap | undefined {
    const under = [...(surface?.querySelectorAll<HTMLElement>("[data-block]") ?? [])].map((e) => ({
      id: e.dataset.block!,
      box: e.getBoundingClientRect(),
    }));
    const rows = under.flatMap((u) => {
      const at = draft.where(u.id);
      return at && !["head", "foot"].includes(draft.layout!.rows[at.row]![0]!.kind) ? [{ ...u, at }] : [];
    });
    if (rows.length === 0) return { row: draft.layout?.rows.length ?? 0 };
    const on = rows.find((r) => y >= r.box.top && y <= r.box.bottom && x >= r.box.left && x <= r.box.right && r.id !== id);
    if (on) {
      const third = on.box.width / 3;
      const beside = x < on.box.left + third ? on.at.column : x > on.box.right - third ? on.at.column + 1 : undefined;
      if (beside !== undefined && draft.fits(kind, { row: on.at.row, beside }, id)) return { row: on.at.row, beside };
      return { row: y < on.box.top + on.box.height / 2 ? on.at.row : on.at.row + 1 };
    }
    const near = rows.toSorted(
      (a, b) =>
        Math.min(Math.abs(y - a.box.top), Math.abs(y - a.box.bottom)) - Math.min(Math.abs(y - b.box.top), Math.abs(y - b.box.bottom)),
    )[0]!;
    return { row: y < near.box.top + near.box.height / 2 ? near.at.row : near.at.row + 1 };
  }
  function carry(event: PointerEvent, kind: string, id: string) {
    event.preventDefault();
    const from = { x: event.clientX, y: event.clientY };
    let going = false;
    const inside = (e: PointerEvent) => {
      const box = surface!.getBoundingClientRect();
      return e.clientX > box.left && e.clientX < box.right && e.clientY > box.top && e.clientY < box.bottom;
    };
    const moved = (e: PointerEvent) => {
      going ||= Math.hypot(e.clientX - from.x, e.clientY - from.y) > 4;
      if (going) carried = { kind, id, to: inside(e) ? gapAt(e.clientX, e.clientY, kind, id) : undefined };
    };
    const done = () => {
      removeEventListener("pointermove", moved);
      removeEventListener("pointerup", done);
      removeEventListener("keydown", away, true);
      const to = carried?.to;
      carried = undefined;
      if (!going && !id) draft.add(kind);
      else if (to && id) draft.move(id, to);
      else if (to) draft.add(kind, to);
    };
    const away = (e: KeyboardEvent) => {
      if (e.key !== "Escape") return;
      e.preventDefault();
      e.stopPropagation();
      going = true;
      carried = undefined;
      removeEventListener("pointermove", moved);
    };
    addEventListener("pointermove", moved);
    addEventListener("pointerup", done);
    addEventListener("keydown", away, true);
  }
  /** The block whose words are written on the page itself. */
  let writing = $state("");
  /** Opens a block for writing: where it stands, if it is of words, else at the side. */
  function write(id: string) {
    draft.selected = id;
    if (kinds[draft.block?.kind ?? ""]?.options.includes("text")) writing = id;
    else setTimeout(() => options?.write(), 30);
  }
  let choosing = $state(false);
  const width = (by: number) => {
    const at = draft.where(draft.selected);
    if (at) draft.widen(draft.selected, draft.widths(draft.layout!.rows[at.row]!)[at.column]! + by);
  };
  async function keep() {
    if (draft.dirty && !draft.kept?.shipped) {
      const done = await draft.keep();
      if (done) desk.done = `${done.layout.name}, version ${done.version}, is kept`;
    }
  }
  $effect(() =>
    keys({
      "]": () => draft.along(1),
      "[": () => draft.along(-1),
      "alt+ArrowUp": () => draft.step("up"),
      "alt+ArrowDown": () => draft.step("down"),
      "alt+ArrowLeft": () => draft.step("left"),
      "alt+ArrowRight": () => draft.step("right"),
      "+": () => width(1),
      "-": () => width(-1),
      a: () => (adding = true),
      Delete: () => draft.remove(),
      "mod+d": () => draft.double(),
      "mod+s": () => void keep(),
      Escape: () => (adding ? (adding = false) : (draft.selected = "")),
      Enter: () => (draft.selected ? write(draft.selected) : options?.write()),
      ...(draft.changes > 0 ? { "mod+z": () => void draft.undo() } : {}),
      ...(draft.canRedo ? { "mod+shift+z": () => void draft.redo() } : {}),
    }),
  );
</script>

<div class="stage">
  <main class="main">
    <div class="head">
      <h1>
        <select
          class="names"
          aria-label="Layout"
          title="Which layout is open; a batch remembers the last ones"
          value={draft.kept?.id}
          onchange={(e) => void use(e.currentTarget.value).then(() => (e.currentTarget.value = draft.kept?.id ?? ""))}
        >
          {#each list.data ?? [] as l (l.id)}<option value={l.id}>{l.layout.name}</option>{/each}
        </select>
      </h1>
      <button
        class="lnk"
        aria-expanded={choosing}
        title="Shows all layouts, each filled with this batch"
        onclick={() => (choosing = !choosing)}>choose</button
      >
      <span class="note"
        >{draft.kept?.shipped
          ? "comes with Yugen; changed, it is kept under another name"
          : `layout, version ${draft.kept?.version ?? ""}`}{#if draft.dirty}
          · <b class="att">{draft.changes === 1 ? "1 change" : `${draft.changes} changes`} since</b>{/if}</span
      >
      <span class="tools">{@render tabs()}</span>
    </div>
    {#if draft.trouble}<p class="att pad" role="alert">
        {draft.trouble} <button class="lnk" title="Closes this" onclick={() => (draft.trouble = "")}>close</button>
      </p>{/if}
    {#if choosing && list.data}<Choose
        {batch}
        layouts={list.data}
        open={draft.kept?.id ?? ""}
        injection={injection?.id ?? ""}
        sample={injection?.role === "sample" ? injection.name : (batch.injections.find((i) => i.role === "sample")?.name ?? "")}
        stay={() => (choosing = false)}
        take={(id) => {
          choosing = false;
          if (id !== draft.kept?.id) void use(id);
        }}
      />{/if}
    <div class="bench">
      <Rail {drawn} carry={(e, kind) => carry(e, kind, "")} bind:adding />
      <div class="desk">
        <div class="filled">
          <span class="mut">filled with</span>
          {each === "batch" ? batch.name : each === "sample" ? sample : `${injection?.name ?? ""} ${replicate(batch, index)}`}
          <span class="mut">{each === "batch" ? "" : `run ${index + 1} of ${batch.injections.length}`}</span>
          <span class="tools"
            ><Choice
              label="Size"
              options={[
                ["page", "whole page"],
                ["width", "page width"],
              ]}
              value={size}
              choose={(s) => (size = s)}
            /></span
          >
        </div>
        <!-- svelte-ignore a11y_no_noninteractive_tabindex (it is scrolled by the keyboard) -->
        <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions (Escape does the same) -->
        <div
          class="surface {size}"
          class:slow
          bind:this={surface}
          role="region"
          aria-label="The page that is laid out"
          tabindex="0"
          onclick={() => (draft.selected = "")}
        >
          {#if batch.injections.length === 0}<div class="empty">There is nothing to lay out yet: a page is drawn with the batch.</div>
          {:else if query.isError}<div class="empty">
              {query.error.message} <button class="btn" title="Draws it again" onclick={() => query.refetch()}>Try again</button>
            </div>
          {:else if !drawn}<div class="empty">Laying out the page …</div>
          {:else}
            {#each drawn.pages.keys() as page (page)}
              <Sheet {drawn} {page} {write} bind:writing {carried} carry={(e, id) => carry(e, draft.block?.kind ?? "", id)} />
            {/each}
            {#if draft.layout?.rows.length === 0}<div class="empty">Nothing on this page yet. Drag a block here, or press A.</div>{/if}
          {/if}
        </div>
      </div>
    </div>
  </main>
  <Side>
    {#if draft.block}<Options {batch} missing={drawn?.missing ?? []} bind:this={options} />{:else if draft.layout}<PageOptions
        {batch}
        keep={() => void keep()}
      />{/if}
  </Side>
  <Foot
    hints={[
      ["J|K", "injection"],
      ["[|]", "block"],
      ["Alt arrows", "move it"],
      ["+|-", "wider, narrower"],
      ["A", "add here"],
      ["Delete", "take off"],
      ["Ctrl S", "keep"],
    ]}
    >{draft.block
      ? `${kinds[draft.block.kind]?.word}, ${draft.widths(draft.layout!.rows[draft.where(draft.selected)!.row]!)[draft.where(draft.selected)!.column]} of 12 columns`
      : "The page is drawn by the same code that prints it."}</Foot
  >
</div>

<style>
  .names {
    font: inherit;
    color: inherit;
    background: none;
    border: none;
    max-width: 24ch;
    text-overflow: ellipsis;
  }
  .pad {
    padding: 0 16px 6px;
  }
  .bench {
    flex: 1;
    min-height: 0;
    display: flex;
  }
  .desk {
    flex: 1;
    min-width: 0;
    display: flex;
    flex-direction: column;
    background: var(--paper-3);
  }
  .filled {
    display: flex;
    gap: 6px;
    align-items: baseline;
    padding: 4px 12px;
    font-size: 12.5px;
  }
  .filled .tools {
    margin-left: auto;
  }
  .surface {
    flex: 1;
    min-height: 0;
    overflow: auto;
    display: flex;
    flex-direction: column;
    align-items: center;
    gap: 14px;
    padding: 4px 12px 14px 124px;
    border-top: 1px solid transparent;
  }
  .surface.slow {
    border-top-color: var(--ai);
  }
  .surface.page :global(.sheet) {
    width: auto;
    height: calc(100% - 4px);
  }
  @media (max-width: 1150px) {
    .surface {
      padding-left: 34px;
    }
  }
</style>
