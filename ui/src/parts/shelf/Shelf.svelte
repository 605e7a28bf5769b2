<script lang="ts">
  import { Tabs } from "@skeletonlabs/skeleton-svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api } from "../../api/client";
  import { count } from "../../look/number";
  import { ask } from "../../state/ask";
  import Begin from "./Begin.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { session } from "../../state/session.svelte";
  import { underway } from "../../state/underway.svelte";
  import { begin, dropped } from "./begin";
  import PageBar from "../PageBar.svelte";
  import NewBatch from "./NewBatch.svelte";
  import Belongings from "./Belongings.svelte";
  import ShelfFound from "./ShelfFound.svelte";
  import ShelfRow from "./ShelfRow.svelte";
  import { atBench, needOf, tabOf, type Listed, type Tab } from "./shelf";
  import TypedReadings from "./TypedReadings.svelte";

  let { problem }: { problem: string } = $props();
  const studies = createQuery(() => ask.studies());
  let wanted = $state("");
  const notices = createQuery(() => ask.notices());
  const open = $derived(new Map((notices.data ?? []).map((n) => [n.batch_id, n])));
  const all = $derived<Listed[]>((studies.data ?? []).flatMap((s) => s.batches.map((b) => ({ ...b, study: s.name }))));
  let tab = $state<Tab>("open");
  const posts = createQuery(() => ask.bench(4000));
  const measured = $derived(new Map((posts.data ?? []).map((p) => [p.list?.batch_id, atBench(p)])));
  const coming = $derived(new Set(underway.live.filter((j) => j.kind === "files").map((j) => j.batch_id)));
  const rows = $derived(
    all
      .filter((b) => tabOf(b) === tab)
      .map((b) => {
        const bench = measured.get(b.id);
        return { batch: b, bench, need: needOf(b, coming.has(b.id) || bench !== undefined, bench?.wants === true, open.get(b.id)?.open) };
      })
      // What needs somebody has waited longest where it was changed first; of what needs nobody the newest is nearest at hand.
      .sort(
        (a, b) => a.need.rank - b.need.rank || (a.need.kind === "none" ? -1 : 1) * a.batch.changed_at.localeCompare(b.batch.changed_at),
      ),
  );
  /** So many are listed at once; the others are found. */
  const listed = 60;
  const drawn = 14;
  const tabs = $derived(
    (["open", "signed", "away"] as const).map((id) => ({
      id,
      word: id === "away" ? "put away" : id,
      n: all.filter((b) => tabOf(b) === id).length,
    })),
  );
  const months = $derived.by((): [number, number] => {
    const list = all.map((b) => new Date(b.started_at).getFullYear() * 12 + new Date(b.started_at).getMonth());
    return list.length ? [Math.min(...list), Math.max(...list, Math.min(...list) + 11)] : [0, 1];
  });
  let asked = $state("");
  $effect(() => {
    const text = wanted;
    const later = setTimeout(() => (asked = text), 180);
    return () => clearTimeout(later);
  });
  const found = createQuery(() => ask.find(asked));
  const examples = ["gyokuro", "EGCG > 60 mg/g", "by Okada", "vial B5", "April 2026", "above range"];
  function find(text: string) {
    wanted = text;
    asked = text;
    document.querySelector<HTMLInputElement>(".look")?.focus();
  }
  function arrows(e: KeyboardEvent) {
    if (!["ArrowDown", "ArrowUp"].includes(e.key) || (e.target as Element).closest("select, textarea, input:not(.look)")) return;
    const links = [...document.querySelectorAll<HTMLElement>(".rows .bname, [aria-label=Found] button")];
    const at = links.indexOf(document.activeElement as HTMLElement);
    const next = links[Math.max(0, Math.min(links.length - 1, at + (e.key === "ArrowDown" ? 1 : -1)))];
    if (!next) return;
    e.preventDefault();
    next.focus();
  }
  let doing = $state<"" | "backup" | "check">("");
  let done = $state("");
  let failed = $state<string[]>([]);
  async function keep(what: "backup" | "check") {
    doing = what;
    done = "";
    failed = [];
    try {
      if (what === "backup") done = `Written and checked: ${(await answer(api.POST("/api/backups"))).folder}`;
      else {
        const found = await answer(api.POST("/api/checks"));
        failed = found.wrong;
        if (failed.length === 0)
          done = `All is well: ${found.files} raw files match their hashes, ${found.changes} rows of the record are in order.`;
      }
    } catch (error) {
      failed = [(error as Error).message];
    }
    doing = "";
  }
  let way = $state("files");
  let over = $state(false); // files are held over the page
  let chooser = $state<HTMLInputElement>();
  let refused = $state("");
  async function start(files: File[], folder: string) {
    refused = "";
    try {
      await begin(studies.data ?? [], files, folder);
    } catch (error) {
      refused = (error as Error).message;
    }
  }
  function table() {
    way = "table";
    setTimeout(() => document.querySelector<HTMLElement>("main textarea")?.focus());
  }
  $effect(() => keys({ "/": () => document.querySelector<HTMLInputElement>(".look")?.focus() }));
  const empty = $derived(studies.data?.length === 0);
</script>

<svelte:window onkeydown={arrows} />
<div class="page">
  <PageBar><span class="note">{all.length > 0 ? count(all.length, "batch", "batches") : ""}</span></PageBar>
  <main
    ondragover={(e) => {
      e.preventDefault();
      over = true;
    }}
    ondragleave={(e) => {
      if (!(e.currentTarget as Element).contains(e.relatedTarget as Node)) over = false;
    }}
    ondrop={(e) => {
      e.preventDefault();
      over = false;
      if (e.dataTransfer) void dropped(e.dataTransfer).then((d) => start(d.files, d.folder));
    }}
  >
    {#if problem}<p class="att" role="alert">{problem}</p>{/if}
    <button
      class="drop"
      class:over
      onclick={() => chooser?.click()}
      title="Starts a new batch with the files; its name, roles and levels are proposed from them"
    >
      <b>{over ? "Let go: they become a new batch" : "Drop files or a folder anywhere on this page."}</b>
      <span class="note">Name, roles, levels and the peak they share are proposed from what they hold.</span>
    </button>
    <input
      bind:this={chooser}
      type="file"
      multiple
      hidden
      aria-label="Files for a new batch"
      onchange={(e) => {
        void start([...(e.currentTarget.files ?? [])], "");
        e.currentTarget.value = "";
      }}
    />
    {#if refused}<p class="att" role="alert">{refused}</p>{/if}
    {#if empty}<Begin choose={() => chooser?.click()} {table} />{/if}
    <div class="two">
      <div class="left">
        {#if studies.isError}
          <p class="att" role="alert">
            {studies.error.message} <button class="lnk" title="Asks once more" onclick={() => studies.refetch()}>Try again</button>
          </p>
        {:else if studies.isPending}
          <p class="note">Reading the shelf …</p>
        {:else if !empty}
          <div class="top">
            <h1>Shelf <span class="note">what is open, the oldest need first</span></h1>
            <div class="tabs" role="group" aria-label="Which batches">
              {#each tabs as t (t.id)}<button
                  class:on={tab === t.id}
                  aria-pressed={tab === t.id}
                  title="Shows batches: {t.word}"
                  onclick={() => (tab = t.id)}>{t.word} {t.n}</button
                >{/each}
            </div>
          </div>
          <p class="find">
            <input
              class="field look"
              type="search"
              aria-label="Find over all batches"
              title="Find by sample, compound, method, person, day or amount (/)"
              placeholder="Sample, compound, method, person or day"
              maxlength="200"
              bind:value={wanted}
              onkeydown={(e) => e.key === "Escape" && (wanted = asked = "")}
            />
            <span class="note"
              >as in {#each examples as e (e)}<button class="lnk" title="Looks for {e}" onclick={() => find(e)}>{e}</button>{/each}</span
            >
          </p>
          {#if asked.trim()}
            {#if found.isError}<p class="att" role="alert">{found.error.message}</p>
            {:else if !found.data}<p class="note">Looking …</p>
            {:else}<ShelfFound found={found.data} text={asked} {find} />{/if}
          {:else}
            <div class="rows">
              {#each rows.slice(0, listed) as r, k (r.batch.id)}<ShelfRow
                  batch={r.batch}
                  bench={r.bench}
                  need={r.need}
                  named={r.need.word !== rows[k - 1]?.need.word}
                  open={open.get(r.batch.id)?.open}
                  first={open.get(r.batch.id)?.first ?? ""}
                  drawn={k < drawn}
                />{:else}<p class="note">
                  {tab === "open" ? "Nothing is open." : tab === "signed" ? "Nothing is signed yet." : "Nothing is put away."}
                </p>{/each}
              {#if rows.length > listed}<p class="note">and {rows.length - listed} more; find them above</p>{/if}
            </div>
          {/if}
        {/if}
        <section aria-label="Studies">
          {#if !empty && !asked.trim()}
            <h2>Studies</h2>
            {#each studies.data ?? [] as s (s.id)}<Belongings study={s} {months} {find} />{/each}
          {/if}
          <p class="keep">
            <button class="lnk" title="Instruments, and what they measure" onclick={() => place.home("bench")}>Bench</button>
            <button class="lnk" title="Who did what, when and why" onclick={() => place.home("record")}>Record</button>
            {#if session.may("keep")}<button class="lnk" title="Who may come in" onclick={() => place.home("people")}>People</button>
              <button class="lnk" title="Whose installation this is, and how its paper looks" onclick={() => place.home("settings")}
                >Settings</button
              >{/if}
            <button class="lnk" title="Writes a checked copy of everything" disabled={doing !== ""} onclick={() => keep("backup")}
              >{doing === "backup" ? "Backing up …" : "Back everything up"}</button
            >
            <button
              class="lnk"
              title="Checks files, record, results and database against one another"
              disabled={doing !== ""}
              onclick={() => keep("check")}>{doing === "check" ? "Checking …" : "Check everything"}</button
            >
            {#if done}<span class="note">{done}</span>{/if}
            {#each failed as line, i (i)}<span class="att" role="alert">{line}</span>{/each}
          </p>
        </section>
      </div>
      <section class="right">
        <Tabs value={way} onValueChange={(d) => (way = d.value)}>
          <Tabs.List class="ways">
            <Tabs.Trigger value="files" class="way">New batch</Tabs.Trigger>
            <Tabs.Trigger value="table" class="way">From a table</Tabs.Trigger>
          </Tabs.List>
          <Tabs.Content value="files"
            >{#if way === "files"}<NewBatch studies={studies.data ?? []} />{/if}</Tabs.Content
          >
          <Tabs.Content value="table"
            >{#if way === "table"}<TypedReadings studies={studies.data ?? []} />{/if}</Tabs.Content
          >
        </Tabs>
      </section>
    </div>
  </main>
</div>

<style>
  .page {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    height: 100%;
  }
  main {
    overflow: auto;
    padding: 12px 16px 40px;
  }
  h1 .note {
    font-family: var(--f-ui);
    font-weight: 400;
    margin-left: 6px;
  }
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 280px;
    gap: 28px;
    align-items: start;
  }
  @media (max-width: 900px) {
    .two {
      grid-template-columns: minmax(0, 1fr);
      gap: 32px;
    }
  }
  .right {
    border-left: 1px solid var(--mist-1);
    padding-left: 20px;
  }
  .top {
    display: flex;
    flex-wrap: wrap;
    justify-content: space-between;
    align-items: baseline;
  }
  .tabs {
    display: flex;
    border-bottom: 1px solid var(--mist-1);
  }
  .tabs button {
    min-height: 26px;
    padding: 0 12px;
    color: var(--ink-2);
  }
  .tabs .on {
    color: var(--ink);
    font-weight: 600;
    box-shadow: inset 0 -2px var(--ink);
  }
  .find {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    align-items: baseline;
    margin: 4px 0 2px;
  }
  .look {
    flex: 1 1 240px;
  }
  .find .note {
    display: flex;
    flex-wrap: wrap;
    gap: 0 12px;
    align-items: baseline;
  }
  .find .lnk {
    min-height: 24px;
  }
  section[aria-label="Studies"] {
    margin-top: 22px;
  }
  .drop {
    display: block;
    width: 100%;
    border: 1.5px dashed var(--mist-3);
    padding: 9px 16px;
    margin-bottom: 14px;
    text-align: left;
  }
  .drop b {
    font-weight: 500;
    margin-right: 10px;
  }
  .drop.over {
    border-color: var(--ai);
    background: var(--row-ai);
    color: var(--ai);
  }
  .keep {
    margin-top: 14px;
    font-size: 12.5px;
    display: flex;
    flex-wrap: wrap;
    gap: 3px 18px;
    align-items: baseline;
    overflow-wrap: anywhere;
  }
  .keep .lnk {
    min-height: 24px;
  }
  main :global(.ways) {
    display: flex;
    gap: 22px;
    margin-bottom: 14px;
  }
  main :global(.way) {
    font: 500 var(--t-head) / 1.2 var(--f-read);
    color: var(--ink-3);
    padding-bottom: 3px;
    border-bottom: 2px solid transparent;
  }
  main :global(.way[data-selected]) {
    color: var(--ink);
    border-bottom-color: var(--ink);
  }
</style>
