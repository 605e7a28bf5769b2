<script lang="ts">
  import { Tabs } from "@skeletonlabs/skeleton-svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api } from "../../api/client";
  import { ask } from "../../state/ask";
  import Begin from "./Begin.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { session } from "../../state/session.svelte";
  import { begin, dropped } from "./begin";
  import Logo from "../Logo.svelte";
  import NewBatch from "./NewBatch.svelte";
  import ShelfRow from "./ShelfRow.svelte";
  import TypedReadings from "./TypedReadings.svelte";

  let { problem }: { problem: string } = $props();
  const studies = createQuery(() => ask.studies());
  let wanted = $state("");
  /** So many batches are seen at a glance; beyond them there is a field to find one. */
  const few = 5;
  const notices = createQuery(() => ask.notices());
  const open = $derived(new Map((notices.data ?? []).map((n) => [n.batch_id, n.open])));
  let away = $state(false); // those that were put away are shown too
  const put = $derived((studies.data ?? []).reduce((n, s) => n + s.batches.filter((b) => b.away).length, 0));
  const all = $derived((studies.data ?? []).reduce((n, s) => n + s.batches.length, 0));
  /** Studies whose name is wanted with all their batches, others with those that are. */
  const shown = $derived.by(() => {
    const text = wanted.trim().toLowerCase();
    const has = (name: string) => name.toLowerCase().includes(text);
    return (studies.data ?? [])
      .map((s) => ({ ...s, batches: s.batches.filter((b) => away || !b.away) }))
      .map((s) => (has(s.name) ? s : { ...s, batches: s.batches.filter((b) => has(b.name)) }))
      .filter((s) => s.batches.length > 0 || (has(s.name) && !text && !put));
  });
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
  <h1>
    <Logo width={45} />
    Yugen
  </h1>
  {#if session.signsIn}<p class="note here">
      {session.me?.name}, {session.me?.roles.join(", ")}
      {#if session.may("keep")}<button class="lnk" title="Who may come in" onclick={() => place.home("people")}>People</button>{/if}
      <button class="lnk" title="Ends this session" onclick={() => session.signOut()}>Sign out</button>
    </p>{/if}
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
    <section aria-label="Studies">
      <h2>Studies</h2>
      {#if studies.isError}
        <p class="att" role="alert">
          {studies.error.message} <button class="lnk" onclick={() => studies.refetch()}>Try again</button>
        </p>
      {:else if studies.isPending}
        <p class="note">Reading the studies …</p>
      {:else}
        {#if all > few}
          <input class="field look" type="search" aria-label="Find a batch or study" placeholder="find by name" bind:value={wanted} />
        {/if}
        {#each shown as s (s.id)}
          <p class="study">{s.name}</p>
          {#each s.batches as b (b.id)}<ShelfRow batch={b} open={open.get(b.id)} />{/each}
        {:else}
          <p class="note">{all > 0 ? "No batch or study of that name." : "No study yet. Start the first one here."}</p>
        {/each}
      {/if}
      {#if put > 0}
        <label class="chk put"><input type="checkbox" bind:checked={away} />{put} put away</label>
      {/if}
      <p class="keep">
        <button class="lnk" title="Who did what, when and why" onclick={() => place.home("record")}>Record</button>
        <button class="lnk" disabled={doing !== ""} onclick={() => keep("backup")}
          >{doing === "backup" ? "Backing up …" : "Back everything up"}</button
        >
        <button class="lnk" disabled={doing !== ""} onclick={() => keep("check")}
          >{doing === "check" ? "Checking …" : "Check everything"}</button
        >
        {#if done}<span class="note">{done}</span>{/if}
        {#each failed as line, i (i)}<span class="att" role="alert">{line}</span>{/each}
      </p>
    </section>
    <section>
      <Tabs value={way} onValueChange={(d) => (way = d.value)}>
        <Tabs.List class="ways">
          <Tabs.Trigger value="files" class="way">New batch</Tabs.Trigger>
          <Tabs.Trigger value="table" class="way">From a table of readings</Tabs.Trigger>
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

<style>
  .here {
    margin-bottom: 14px;
    display: flex;
    gap: 12px;
    align-items: baseline;
  }
  main {
    width: min(1060px, calc(100vw - 60px));
    height: 100%;
    overflow: auto;
    margin: 0 auto;
    padding: 7vh 0 40px;
  }
  h1 {
    font-size: 30px;
    display: flex;
    gap: 12px;
    align-items: center;
    margin-bottom: 26px;
  }
  .two {
    display: grid;
    grid-template-columns: minmax(0, 5fr) minmax(0, 4fr);
    gap: 64px;
    align-items: start;
  }
  @media (max-width: 900px) {
    .two {
      grid-template-columns: minmax(0, 1fr);
      gap: 32px;
    }
  }
  .study {
    font: 400 15px var(--f-read);
    margin-top: 10px;
  }
  .look {
    width: 100%;
    margin: 4px 0;
  }
  .put {
    margin-top: 10px;
  }
  .drop {
    display: block;
    width: 100%;
    border: 1.5px dashed var(--mist-3);
    padding: 14px 18px;
    margin-bottom: 26px;
    text-align: left;
  }
  .drop b {
    font-weight: 500;
    display: block;
  }
  .drop.over {
    border-color: var(--ai);
    background: var(--row-ai);
    color: var(--ai);
  }
  .keep {
    margin-top: 18px;
    font-size: 12.5px;
    display: grid;
    gap: 3px;
    justify-items: start;
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
