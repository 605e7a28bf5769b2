<script lang="ts">
  // Who did what, when, from what to what, and why: filters over a table, the chosen entry in words beside it, and whether the chain is whole.
  import { createInfiniteQuery, createQuery } from "@tanstack/svelte-query";
  import { answer, api, type RecordRow } from "../api/client";
  import Foot from "../parts/Foot.svelte";
  import PageBar from "../parts/PageBar.svelte";
  import Side from "../parts/Side.svelte";
  import { missing } from "../look/number";
  import { ask } from "../state/ask";
  import { keys } from "../state/keys.svelte";
  import { place } from "../state/place.svelte";
  import { session } from "../state/session.svelte";

  let who = $state("");
  let kind = $state("");
  let batch = $state("");
  let words = $state("");
  let from = $state("");
  let to = $state("");
  const day = (text: string, after = 0) => {
    if (!text) return "";
    const [y, m, d] = text.split("-").map(Number);
    return new Date(y!, m! - 1, d! + after).toISOString();
  };
  const wanted = $derived(
    Object.fromEntries(Object.entries({ who, kind, batch, words: words.trim(), from: day(from), to: day(to, 1) }).filter(([, v]) => v)),
  );
  const query = createInfiniteQuery(() => ({
    queryKey: ["record", "all", JSON.stringify(wanted)],
    staleTime: 0,
    initialPageParam: "",
    placeholderData: <T,>(before: T) => before,
    queryFn: ({ pageParam }: { pageParam: string }) =>
      answer(api.GET("/api/record", { params: { query: { ...wanted, ...(pageParam ? { before: pageParam } : {}) } } })),
    getNextPageParam: (last: { rows: RecordRow[]; more: boolean }) => (last.more ? String(last.rows.at(-1)!.seq) : undefined),
  }));
  const studies = createQuery(() => ask.studies());
  const first = $derived(query.data?.pages[0]);
  const rows = $derived(query.data?.pages.flatMap((p) => p.rows) ?? []);
  let chosen = $state(0);
  const at = $derived(
    Math.max(
      0,
      rows.findIndex((r) => r.seq === chosen),
    ),
  );
  const row = $derived(rows[at]);
  const when = (t: string, long = false) =>
    new Date(t).toLocaleString("en-GB", {
      day: "numeric",
      month: "short",
      ...(long ? { year: "numeric" } : {}),
      hour: "2-digit",
      minute: "2-digit",
      second: "2-digit",
    });
  const filters = $derived(
    [
      { word: who, off: () => (who = "") },
      { word: kind, off: () => (kind = "") },
      { word: batch && "this batch", off: () => (batch = "") },
      { word: words.trim(), off: () => (words = "") },
      { word: from && `from ${from}`, off: () => (from = "") },
      { word: to && `until ${to}`, off: () => (to = "") },
    ].filter((f) => f.word),
  );
  let checking = $state("");
  let wrong = $state<string[]>([]);
  async function check() {
    checking = "Checking everything …";
    wrong = [];
    try {
      const found = await answer(api.POST("/api/checks"));
      wrong = found.wrong;
      checking = wrong.length
        ? "Something is wrong:"
        : `Each entry holds the hash of the one before it: of ${found.changes} none is missing or altered. ${found.files} raw files match their hashes.`;
    } catch (error) {
      checking = (error as Error).message;
    }
  }
  function along(by: number) {
    chosen = rows[Math.max(0, Math.min(rows.length - 1, at + by))]?.seq ?? 0;
    document.querySelector(`[data-seq="${chosen}"]`)?.scrollIntoView({ block: "nearest" });
  }
  function arrows(e: KeyboardEvent) {
    if (!["ArrowDown", "ArrowUp"].includes(e.key) || (e.target as Element).closest("input, select, textarea")) return;
    e.preventDefault();
    along(e.key === "ArrowDown" ? 1 : -1);
  }
  $effect(() =>
    keys({
      Enter: () => row?.batch_id && place.go({ batch: row.batch_id, station: "batch", query: {} }),
      "/": () => document.querySelector<HTMLInputElement>("#record-words")?.focus(),
      "alt+0": () => place.home(),
    }),
  );
</script>

<svelte:window onkeydown={arrows} />
<div class="page">
  <PageBar />
  <div class="band">
    <label
      >Who<select class="field" bind:value={who} title="Who did it"
        ><option value="">anyone</option>{#each first?.who ?? [] as w (w)}<option>{w}</option>{/each}</select
      ></label
    >
    <label
      >Kind<select class="field" bind:value={kind} title="What kind of change"
        ><option value="">any change</option>{#each first?.actions ?? [] as a (a)}<option>{a}</option>{/each}</select
      ></label
    >
    <label
      >Batch<select class="field" bind:value={batch} title="In which batch"
        ><option value="">any, and none</option>{#each studies.data ?? [] as s (s.id)}<optgroup label={s.name}
            >{#each s.batches as b (b.id)}<option value={b.id}>{b.name}</option>{/each}</optgroup
          >{/each}</select
      ></label
    >
    <label
      >Words<input
        id="record-words"
        class="field"
        type="search"
        bind:value={words}
        maxlength="100"
        placeholder="in what, why, who"
        title="Every word stands in what was done, why, or by whom (/)"
      /></label
    >
    <label>From<input class="field" type="date" bind:value={from} title="The first day" /></label>
    <label>until<input class="field" type="date" bind:value={to} title="The last day" /></label>
  </div>
  <div class="stage">
    <main class="main">
      <h1>Record <span class="note">who, when, what, from what to what, and why; the newest first</span></h1>
      {#if query.isError}<p class="att" role="alert">{query.error.message}</p>
      {:else if !first}<p class="note">Reading the record …</p>
      {:else if rows.length === 0}<p class="none">
          <span>No entry.</span>{#if filters.length}<span>Take a filter off:</span>
            {#each filters as f (f.word)}<button class="lnk" title="Takes this filter off" onclick={f.off}>{f.word}</button>{/each}{/if}
        </p>
      {:else}
        <table aria-label="Record">
          <thead
            ><tr
              ><th class="l">When</th><th class="l">Who</th><th class="l">Where</th><th class="l">What</th><th class="l">From</th><th
                class="l">To</th
              ><th class="l">Why</th></tr
            ></thead
          >
          <tbody>
            {#each rows as r (r.seq)}<tr class:on={r.seq === row?.seq} data-seq={r.seq} onclick={() => (chosen = r.seq)}>
                <td class="l t">{when(r.at)}</td><td class="l">{r.who}</td><td class="l">{r.batch || missing}</td>
                <td class="l"
                  ><button title="Looks at this entry" onclick={() => (chosen = r.seq)}><b>{r.action}</b> {r.subject}</button></td
                >
                <td class="l mut">{r.differences[0]?.before ?? ""}</td>
                <td class="l"
                  >{r.differences[0]?.after ?? ""}{#if r.differences.length + r.more > 1}<span class="note">
                      and {r.differences.length + r.more - 1} more</span
                    >{/if}</td
                >
                <td class="l">{r.why || missing}</td>
              </tr>{/each}
          </tbody>
        </table>
        {#if query.hasNextPage}<p>
            <button class="lnk" disabled={query.isFetchingNextPage} title="The entries before these" onclick={() => query.fetchNextPage()}
              >{query.isFetchingNextPage ? "Reading …" : "older entries"}</button
            >
          </p>{/if}
      {/if}
    </main>
    <Side>
      {#if row}
        <section aria-label="This entry">
          <h2>Entry {row.seq} <span class="r">{when(row.at, true)}</span></h2>
          <p class="says"><b>{row.who}</b>: {row.action}, {row.subject}.</p>
          {#each row.differences as d, k (k)}<p class="fact">
              <span>{d.what}</span><span>{d.before || missing} → {d.after || missing}</span>
            </p>{/each}
          {#if row.more}<p class="note">and {row.more} more</p>{/if}
          {#if row.why}<p class="fact"><span>Why</span><span>{row.why}</span></p>{/if}
          <p class="fact"><span>From where</span><span>{row.place || "this machine"}</span></p>
          {#if row.clock}<p class="att">The clock was {row.clock}.</p>{/if}
          <p class="note">
            <button class="lnk" title="What else this person did" onclick={() => (who = row.who)}>all by {row.who}</button>
            {#if row.batch_id}<button class="lnk" title="What else was done there" onclick={() => (batch = row.batch_id)}
                >all in this batch</button
              >
              <button
                class="lnk"
                title="Opens the batch (Enter)"
                onclick={() => place.go({ batch: row.batch_id, station: "batch", query: {} })}>open it</button
              >{/if}
          </p>
        </section>
      {/if}
      <section aria-label="The chain">
        <h2>The chain</h2>
        {#if checking}<p class:att={wrong.length > 0} role="status">{checking}</p>{/if}
        {#each wrong as w (w)}<p class="att">{w}</p>{/each}
        {#if session.may("keep")}<p class="note">
            <button class="lnk" title="Checks files, record, results and database against one another" onclick={check}
              >check everything</button
            >
          </p>{:else}<p class="note">A keeper checks it.</p>{/if}
      </section>
      <section aria-label="Take it out">
        <h2>Take it out</h2>
        <p class="note">
          <a class="lnk" href="/api/record.csv?{new URLSearchParams(wanted)}" download title="All entries that are found here, as CSV"
            >CSV</a
          >
          <a
            class="lnk"
            href="/api/record.jsonl?{new URLSearchParams(wanted)}"
            download
            title="The same with what stood before and after, a line of JSON each; the last line signs them">signed JSON</a
          >
          {filters.length ? "of what is found here" : "of everything"}
        </p>
      </section>
      <section aria-label="What cannot be undone">
        <h2>What cannot be undone</h2>
        <p class="note">An entry here, also that of an undo. A report that was kept. A saved version of a method.</p>
      </section>
    </Side>
    <Foot
      hints={[
        ["↑|↓", "entry to entry"],
        ["Enter", "open the place"],
        ["/", "words"],
      ]}>Times are of this computer; kept in UTC</Foot
    >
  </div>
</div>

<style>
  .page {
    display: grid;
    grid-template-rows: 41px auto minmax(0, 1fr);
    height: 100%;
  }
  .band {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 20px;
    padding: 10px 16px;
    background: var(--band, color-mix(in oklab, var(--mist-1) 40%, var(--paper)));
    border-bottom: 1px solid var(--mist-1);
  }
  .band label {
    display: grid;
    gap: 2px;
    font-size: 12px;
    color: var(--ink-2);
  }
  .band .field {
    width: 142px;
    color: var(--ink);
  }
  .main {
    padding: 6px 16px;
    overflow: auto;
  }
  h1 {
    font: 500 22px/1.5 var(--f-read);
  }
  table {
    width: 100%;
    table-layout: fixed;
  }
  th:nth-child(1) {
    width: 118px;
  }
  th:nth-child(2) {
    width: 96px;
  }
  th:nth-child(3) {
    width: 104px;
  }
  th:nth-child(4) {
    width: 30%;
  }
  td {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  td.mut {
    color: var(--ink-2);
  }
  td button {
    min-height: 24px;
    text-align: left;
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  td b {
    font-weight: 500;
    margin-right: 4px;
  }
  tr.on td {
    background: var(--row-kaki);
  }
  tr.on td:first-child {
    box-shadow: inset 3px 0 var(--kaki);
  }
  .says {
    font: 15px/21px var(--f-read);
  }
  .fact {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    border-bottom: 1px solid var(--mist-1);
    padding: 3px 0;
    font-size: 12.5px;
    overflow-wrap: anywhere;
  }
  .note {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
  }
  h1 .note,
  td .note {
    display: inline;
    margin-left: 6px;
  }
  .none {
    display: flex;
    gap: 12px;
    padding-top: 8px;
  }
</style>
