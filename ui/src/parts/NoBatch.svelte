<script lang="ts">
  import { count } from "../look/number";
  import { Tabs } from "@skeletonlabs/skeleton-svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api } from "../api/client";
  import { ask } from "../state/desk.svelte";
  import { place } from "../state/place.svelte";
  import Logo from "./Logo.svelte";
  import NewBatch from "./NewBatch.svelte";
  import TypedReadings from "./TypedReadings.svelte";

  let { problem }: { problem: string } = $props();
  const studies = createQuery(() => ask.studies());
  let wanted = $state("");
  /** So many batches are seen at a glance; beyond them there is a field to find one. */
  const few = 5;
  const all = $derived((studies.data ?? []).reduce((n, s) => n + s.batches.length, 0));
  /** Studies whose name is wanted with all their batches, others with those that are. */
  const shown = $derived.by(() => {
    const text = wanted.trim().toLowerCase();
    const has = (name: string) => name.toLowerCase().includes(text);
    return (studies.data ?? [])
      .map((s) => (has(s.name) ? s : { ...s, batches: s.batches.filter((b) => has(b.name)) }))
      .filter((s) => has(s.name) || s.batches.length > 0);
  });
  /** "just now", "12 min ago", "3 h ago", then the day. */
  function ago(t: string): string {
    const min = (Date.now() - new Date(t).getTime()) / 60_000;
    if (min < 1) return "just now";
    if (min < 60) return `${Math.floor(min)} min ago`;
    if (min < 24 * 60) return `${Math.floor(min / 60)} h ago`;
    return new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
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
</script>

<main>
  <h1>
    <Logo width={45} />
    Yugen
  </h1>
  {#if problem}<p class="att" role="alert">{problem}</p>{/if}
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
          {#each s.batches as b (b.id)}
            <a
              class="batch"
              href="/{b.id}/batch"
              onclick={(e) => (e.preventDefault(), place.go({ batch: b.id, station: "batch", query: { i: "", c: "" } }))}
            >
              <span class="bname">{b.name}</span>
              <span class="mut"
                >{count(b.injections, "injection")}{b.reported ? ", reported" : ""} ·
                <time datetime={b.changed_at} title="{new Date(b.changed_at).toLocaleString('en-GB')}, {b.changed_by}"
                  >{ago(b.changed_at)}</time
                ></span
              >
            </a>
          {/each}
        {:else}
          <p class="note">{all > 0 ? "No batch or study of that name." : "No study yet. Start the first one here."}</p>
        {/each}
      {/if}
      <p class="keep">
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
    grid-template-columns: 380px minmax(0, 1fr);
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
  .batch {
    display: flex;
    justify-content: space-between;
    padding: 4px 0;
    border-bottom: 1px solid var(--mist-1);
  }
  .look {
    width: 100%;
    margin: 4px 0;
  }
  .bname {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .batch .mut {
    white-space: nowrap;
    padding-left: 12px;
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
