<script lang="ts">
  // One report of many: its page as it is now, what became of its file, and what it was made from.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, type Batch, type ReportFile, type ReportSet } from "../../api/client";
  import { ask, queries } from "../../state/ask";
  import { keys } from "../../state/keys.svelte";
  import { size, stateWords as words, when } from "./sets";

  let {
    batch,
    set,
    file,
    name,
    makeAgain,
    again,
  }: {
    batch: Batch;
    set: ReportSet;
    file: ReportFile;
    name: string;
    makeAgain: (set: string, position: number) => Promise<void>;
    again: Record<string, { same: boolean; says: string }>;
  } = $props();
  const key = $derived(`${set.id} ${file.position}`);
  const address = $derived(`/api/batches/${batch.id}/sets/${set.id}/files/${file.position}`);
  const layouts = createQuery(() => ask.layouts(batch.id));
  const layout = $derived.by(() => {
    const kept = layouts.data?.find((l) => l.id === set.asked.layout)?.layout;
    return kept && set.asked.each ? { ...kept, each: set.asked.each } : kept;
  });
  const drawn = createQuery(() =>
    ask.drawn(
      batch.id,
      batch.revision,
      file.joined ? undefined : layout,
      file.injection_id ?? "",
      file.sample ?? "",
      batch.settled.join(" "),
    ),
  );
  const page = $derived(file.joined ? "" : (drawn.data?.pages[0] ?? ""));
  let tall = $state(false);
  $effect(() => keys({ o: () => (tall = !tall) }));
</script>

<section aria-label="This report">
  <h2>{name} <span class="r">{file.format.toUpperCase()}</span></h2>
  {#if page}
    <!-- eslint-disable-next-line svelte/no-at-html-tags -- drawn by our own server, which escapes every text in it -->
    <div class="sheet" class:tall role="img" aria-label="Its first page">{@html page}</div>
    {#if drawn.data && drawn.data.pages.length > 1}<p class="note">{drawn.data.pages.length} pages</p>{/if}
  {/if}
  <p class="fact"><span>file</span>{file.name}.{file.format}</p>
  <p class="fact"><span>state</span>{words[file.state]}{file.says ? `: ${file.says}` : ""}</p>
  {#if file.hash}
    <p class="fact"><span>size</span>{size(file.size)}</p>
    <p class="fact"><span>sha-256</span><span class="num">{file.hash.slice(0, 24)}…</span></p>
    <p class="acts">
      <a class="btn" title="Opens it" target="_blank" href="{address}?open=1">Open <kbd>Enter</kbd></a>
      <button class="btn" title="Makes it again and compares the bytes" onclick={() => void makeAgain(set.id, file.position)}
        >Make again</button
      >
    </p>
    {#if again[key]}
      <p class={again[key]!.same ? "good" : "cau"}>{again[key]!.says}</p>{/if}
  {/if}
  {#each file.sent as s (s.target)}
    <p class="fact">
      <span>{s.target}</span><span class={s.state === "sent" ? "good" : s.tries ? "cau" : ""}
        >{s.state === "sent" ? `there since ${when(s.at)}` : s.says || "to be sent"}</span
      >
    </p>
  {/each}
  {#if file.sent.some((s) => s.state !== "sent")}<button
      class="lnk"
      title="Tries to send what waits now"
      onclick={() => void answer(api.POST("/api/deliveries")).then(() => queries.invalidateQueries({ queryKey: ["sets", batch.id] }))}
      >send now</button
    >{/if}
</section>
<section aria-label="Made from">
  <h2>Made from</h2>
  <p class="fact"><span>layout</span>{set.layout_name}, version {set.layout_version}</p>
  <p class="fact"><span>method</span>{batch.version.name}, version {batch.version.number}</p>
  <p class="fact"><span>inputs</span>{set.inputs_hash.slice(0, 12)}</p>
  <p class="note">No clock is in a report, so that the same inputs give the same file; when it was made stands in the record.</p>
</section>

<style>
  .sheet {
    background: #fffefb;
    border: 1px solid var(--mist-2);
    max-height: 268px;
    overflow: hidden;
    margin-bottom: 6px;
  }
  .sheet.tall {
    max-height: none;
  }
  .sheet :global(svg) {
    display: block;
    width: 100%;
    height: auto;
  }
  .fact {
    display: grid;
    grid-template-columns: 72px 1fr;
    gap: 8px;
    font-size: 12.5px;
    line-height: 20px;
    overflow-wrap: anywhere;
  }
  .fact > span:first-child {
    color: var(--ink-2);
  }
  .good {
    color: var(--moss);
  }
  .acts {
    display: flex;
    gap: 10px;
    margin: 8px 0;
  }
</style>
