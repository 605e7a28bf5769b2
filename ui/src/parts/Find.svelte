<script lang="ts">
  // One field for everything: places of this batch, other batches, and what the station can do.
  import { Dialog, Portal } from "@skeletonlabs/skeleton-svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Result } from "../api/client";
  import { ask } from "../state/ask";
  import { desk, replicate } from "../state/desk.svelte";
  import { keys } from "../state/keys.svelte";
  import { light } from "../state/light.svelte";
  import { place, stationsOf, type Station } from "../state/place.svelte";
  import { pages, type Page } from "../state/pages";
  import { formulas, places } from "../help/help";
  import { sheet } from "../help/sheet.svelte";
  import { pressable, deeds, type Deed, type Where } from "../state/deeds";
  import { jobsPanel } from "./jobs.svelte";
  import { finder } from "./finder.svelte";

  let { batch, result }: { batch: Batch | undefined; result: Result | undefined } = $props();
  let text = $state("");
  let at = $state(0);
  let field = $state<HTMLInputElement>();

  type Hit = { kind: string; name: string; go: () => void };
  const houses: [Page, string][] = [
    ["bench", "Bench: instruments, what they measure, what they want of you"],
    ["people", "People: who may come in, and tokens for scripts"],
    ["record", "Record: who did what, when and why"],
    ["settings", "Settings of the laboratory"],
    ["api", "The contract of the interface for scripts"],
  ];
  const studies = createQuery(() => ({ ...ask.studies(), enabled: finder.open }));
  /** What can be pressed at the station as it stands: every button that is not in a table, by its words or its name. */
  let actions = $state.raw<Hit[]>([]);
  function gather(): Hit[] {
    const hits = new Map<string, Hit>();
    for (const el of document.querySelectorAll<HTMLElement>(
      "main button:not([disabled]), .stage button:not([disabled]), .stage .choice-item",
    )) {
      const words = el.cloneNode(true) as HTMLElement;
      for (const key of words.querySelectorAll("kbd")) key.remove();
      const name = (el.getAttribute("aria-label") ?? words.textContent).replace(/\s+/g, " ").trim();
      if (name.length < 3 || name.length > 60 || el.closest("td, th, .ntc")) continue;
      if (!hits.has(name)) hits.set(name, { kind: "do here", name, go: () => el.click() });
    }
    return [...hits.values()];
  }
  const all = $derived.by<Hit[]>(() => {
    const hits: Hit[] = batch
      ? stationsOf(batch).map((s) => ({
          kind: "station",
          name: s[0]!.toUpperCase() + s.slice(1),
          go: () => place.go({ station: s }),
        }))
      : [];
    if (batch) {
      hits.push({ kind: "do", name: "Undo", go: () => desk.undo() });
      hits.push({ kind: "do", name: "Redo", go: () => desk.redo() });
      hits.push({ kind: "place", name: "All studies", go: () => place.go({ batch: "", station: "batch", query: { i: "", c: "" } }) });
    }
    for (const [page, name] of houses) hits.push({ kind: "place", name, go: () => place.home(page) });
    hits.push({ kind: "do", name: "Jobs: what is worked on, and what was lately", go: () => (jobsPanel.open = true) });
    hits.push(...actions);
    for (const deed of deeds) if (within(deed[1])) hits.push({ kind: deed[1], name: deed[0], go: () => void act(deed) });
    hits.push({ kind: "do", name: light.night ? "Paper" : "Night", go: () => light.toggle() });
    batch?.injections.forEach((inj, i) =>
      hits.push({
        kind: "injection",
        name: [`${inj.name} ${replicate(batch, i)}`.trim(), ...batch.own_columns.flatMap((c) => inj.own?.[c.id] ?? [])].join(" · "),
        go: () => place.go({ query: { i: inj.id } }),
      }),
    );
    batch?.version.method.compounds.forEach((c) =>
      hits.push({
        kind: "compound",
        name: c.name,
        go: () => place.go({ station: c.role === "target" ? "curves" : "compounds", query: { c: c.id } }),
      }),
    );
    result?.notices.forEach((n) =>
      hits.push({
        kind: "notice",
        name: `${n.subject}: ${n.text}`,
        go: () =>
          place.go({
            station: n.station as Station,
            query: { i: n.injection_id, c: n.compound_id, ...(n.station === "traces" ? { mode: "one", at: n.at_min?.toFixed(3) } : {}) },
          }),
      }),
    );
    for (const study of studies.data ?? []) {
      for (const b of study.batches) {
        if (b.id === batch?.id) continue;
        hits.push({
          kind: "batch",
          name: `${b.name} (${study.name})`,
          go: () => place.go({ batch: b.id, station: "batch", query: { i: "", c: "" } }),
        });
      }
    }
    for (const section of places) {
      const where = section.name.toLowerCase() as Where;
      if (!within(where)) continue;
      const told = (name: string, part: string) =>
        hits.push({
          kind: "help",
          name,
          go: () => {
            to(where, "");
            sheet.open = true;
            if (part) void sheet.await(() => document.querySelector(part), name);
          },
        });
      told(`${section.name}: ${section.purpose}`, "");
      for (const s of section.steps) told(s.text, s.part);
      for (const w of section.words) told(`${w.word}: ${w.meaning}`, "");
    }
    for (const f of formulas.values())
      hits.push({
        kind: "help",
        name: `${f.name}: ${f.text}`,
        go: () => {
          if (batch) to("results", "matrix");
          sheet.formulas = sheet.open = true;
        },
      });
    return hits;
  });
  /** Whether one can go there now: to a station only from a batch. */
  function within(where: Where): boolean {
    return (
      where === "shelf" ||
      pages.includes(where as Exclude<Page, "">) ||
      (batch !== undefined && stationsOf(batch).includes(where as Station))
    );
  }
  function to(where: Where, face: string) {
    if (where === "shelf") place.home();
    else if (pages.includes(where as Exclude<Page, "">)) place.home(where as Page);
    else {
      // Much of what is done is done to a compound's peak.
      const c = place.query.c || batch?.version.method.compounds.find((one) => one.role === "target")?.id;
      place.go({ station: where as Station, query: { ...(face && { face }), ...(c && { c }) } });
    }
  }
  /** Does what is named where it is done; what acts on a thing is pointed at, so that it is seen first. */
  async function act([name, where, face, words, how]: Deed) {
    to(where, face);
    const here = location.pathname;
    const found = await sheet.await(() => pressable(words), name);
    if (location.pathname !== here || found === "gone on") return;
    if (!(found instanceof HTMLElement)) desk.trouble = `“${name}” cannot be done at ${where} as it stands now.`;
    else if (how === "point") found.focus();
    else {
      sheet.ring = undefined;
      found.click();
    }
  }
  const wanted = $derived(text.toLowerCase().split(/\s+/).filter(Boolean));
  const found = $derived(finder.open ? all.filter((h) => wanted.every((w) => h.name.toLowerCase().includes(w))).slice(0, 14) : []);

  $effect(() => keys({ "mod+k": () => (finder.open = true) }));
  $effect(() => {
    if (finder.open) {
      text = "";
      at = 0;
      actions = gather();
      queueMicrotask(() => field?.focus());
    }
  });

  function choose(hit: Hit | undefined) {
    finder.open = false;
    if (hit) setTimeout(hit.go); // once the dialog has given the focus back
  }
  function key(e: KeyboardEvent) {
    if (e.key === "ArrowDown") at = Math.min(found.length - 1, at + 1);
    else if (e.key === "ArrowUp") at = Math.max(0, at - 1);
    else if (e.key === "Enter") choose(found[at]);
    else return;
    e.preventDefault();
  }
</script>

<Dialog open={finder.open} onOpenChange={(d) => (finder.open = d.open)} initialFocusEl={() => field ?? null}>
  <Portal>
    <Dialog.Backdrop class="find-veil" />
    <Dialog.Positioner class="find-place">
      <Dialog.Content class="find-sheet" aria-label="Find or do">
        <input
          bind:this={field}
          bind:value={text}
          oninput={() => (at = 0)}
          onkeydown={key}
          placeholder={batch ? "A station, an injection, a compound, a notice, a batch, or what to do" : "A batch, or what to do"}
          role="combobox"
          aria-label="Find or do"
          aria-expanded="true"
          aria-controls="found"
          aria-activedescendant="found-{at}"
        />
        <ul id="found" role="listbox" aria-label="Found">
          {#each found as hit, i (hit.kind + hit.name + i)}
            <!-- svelte-ignore a11y_click_events_have_key_events -->
            <li id="found-{i}" role="option" aria-selected={i === at} class:on={i === at} onclick={() => choose(hit)}>
              <span>{hit.name}</span><span class="mut">{hit.kind}</span>
            </li>
          {/each}
        </ul>
        {#if found.length === 0}<p class="none">Nothing of that name.</p>{/if}
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  :global(.find-veil) {
    position: fixed;
    inset: 0;
    background: var(--veil);
    z-index: 20;
  }
  :global(.find-place) {
    position: fixed;
    inset: 0;
    display: grid;
    place-items: start center;
    padding-top: 90px;
    z-index: 21;
  }
  :global(.find-sheet) {
    width: 520px;
    background: var(--paper);
    border: 1px solid var(--ink-3);
    padding: 10px 0 8px;
  }
  .none {
    padding: 3px 16px;
    color: var(--ink-3);
  }
  input {
    width: calc(100% - 32px);
    margin: 0 16px 6px;
    height: 30px;
    font-size: 14px;
    border-bottom: 1px solid var(--mist-3);
    background: none;
    outline: none;
  }
  li {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    padding: 3px 16px;
    cursor: pointer;
  }
  li span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  li.on {
    background: var(--row-ai);
  }
</style>
