<script lang="ts">
  // The run list of an instrument: what is done, what runs, what waits, and an open row at its end.
  import type { BenchPost } from "../api/client";
  import Glyph from "../parts/Glyph.svelte";
  import { place } from "../state/place.svelte";
  import { bench, clock } from "./bench.svelte";

  let { post }: { post: BenchPost } = $props();
  const stand = $derived(post.state!);
  const of = $derived(new Map(post.list?.rows.map((r) => [r.id, r])));
  let name = $state("");
  let vial = $state("");
  let chosen = $state("");
  const open = $derived(stand.list_id !== "" && stand.phase !== "leaving");
  const share = $derived(stand.at_min === null ? 0 : Math.min(1, stand.at_min / stand.run_min));
  async function add(e: SubmitEvent) {
    e.preventDefault();
    if (!name.trim() || !vial.trim()) return;
    const like = post.list?.rows.findLast((r) => r.name === name.trim());
    if (await bench.act(post.id, { kind: "adds", fields: { name: name.trim(), vial: vial.trim(), role: like?.role || "sample" } })) {
      name = "";
      vial = "";
    }
  }
  const words: Record<string, string> = {
    waits: "waits",
    runs: "running",
    done: "taken in",
    cut: "ended early",
    not: "not begun",
    hurt: "doubtful",
  };
  function said(id: string, s: string): string {
    const r = of.get(id);
    if (r?.injection_id) return r.doubtful ? "doubtful" : "processed";
    return words[s] ?? s;
  }
  function key(e: KeyboardEvent, id: string, k: number) {
    const first = stand.rows.findIndex((r) => r.state === "waits");
    if (e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
      e.preventDefault();
      void bench.act(post.id, { kind: "moves", what: id, value: Math.max(first, k + (e.key === "ArrowUp" ? -1 : 1)) });
    } else if (e.key === "Delete") void bench.act(post.id, { kind: "removes", what: id });
  }
</script>

<section class="rows" aria-label="Run list">
  <div class="hd">
    <h2>Run list</h2>
    {#if open}<span class="acts">
        {#if stand.phase === "preparing"}
          <button
            class="lnk"
            title="It begins as soon as everything is true"
            aria-pressed={stand.start === "when_ready"}
            onclick={() => bench.act(post.id, { kind: "begin" })}>Start when ready</button
          >
          <button
            class="lnk"
            title="It waits until somebody says so"
            aria-pressed={stand.start === "when_told"}
            onclick={() => bench.act(post.id, { kind: "pause_after" })}>Wait for me</button
          >
        {:else if stand.phase === "ready" || stand.phase === "paused"}
          <button class="btn pri" title="Goes on with the next row" onclick={() => bench.act(post.id, { kind: "begin" })}
            >{stand.phase === "ready" ? "Start" : "Go on"}</button
          >
        {:else if stand.phase !== "stopped"}
          <button
            class="lnk"
            title="All stays on; nothing more is injected until somebody says so (Space)"
            aria-pressed={stand.pause_next}
            onclick={() => bench.act(post.id, { kind: "pause_after" })}>Pause after this one</button
          >
        {/if}
        {#if stand.phase !== "stopped"}
          <button
            class="lnk"
            title="Ends the list with what was chosen for its end (S)"
            aria-pressed={stand.stop_next}
            onclick={() => bench.act(post.id, { kind: "stop_after" })}
            >{stand.at_min === null ? "End the list" : "Stop after this one"}</button
          >
          {#if stand.at_min !== null}<button
              class="lnk"
              title="What is recorded is kept, and in doubt from where it ends"
              onclick={() => bench.act(post.id, { kind: "stop_now" })}>Stop now</button
            >{/if}
        {/if}
      </span>{/if}
  </div>
  <div class="scroll">
    <table aria-label="Run list of {post.name}">
      <thead><tr><th>#</th><th class="l">Name</th><th class="l">Vial</th><th class="l">Starts</th><th class="l">State</th></tr></thead>
      <tbody>
        {#each stand.rows as r, k (r.id)}
          {@const kept = of.get(r.id)}
          <tr class:on={r.state === "runs"} class:mark={chosen === r.id}>
            <td class="num">{k + 1}</td>
            <td class="l"
              >{#if r.state === "waits"}<button
                  class="row"
                  title="Alt and arrows move it, Delete takes it out"
                  onfocus={() => (chosen = r.id)}
                  onkeydown={(e) => key(e, r.id, k)}><Glyph role={kept?.role ?? ""} /> {r.name}</button
                >{:else}<Glyph role={kept?.role ?? ""} /> {r.name}{/if}</td
            >
            <td class="l">{r.vial}</td>
            <td class="l">{clock(r.begun ?? r.expected)}</td>
            <td class="l">
              {#if r.state === "runs"}<span class="bar"><i style:width="{share * 100}%"></i></span> running
              {:else if kept?.injection_id}<button
                  class="lnk"
                  class:att={kept.doubtful}
                  title={kept.remark || "Opens it in its batch"}
                  onclick={() => place.go({ batch: post.list!.batch_id, station: "peaks", query: { i: kept.injection_id } })}
                  >{said(r.id, r.state)}</button
                >{#if kept.remark && !kept.doubtful}<span class="cau">&nbsp;{kept.remark}</span>{/if}
              {:else if kept?.remark}<span class="att">{kept.remark}</span>{:else}<span class="mut">{words[r.state]}</span>{/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if open}<form class="add" onsubmit={add}>
      <span class="num mut">{stand.rows.length + 1}</span>
      <input
        id="bench-add"
        class="field"
        bind:value={name}
        maxlength="200"
        placeholder="add to the end"
        aria-label="Name of a further injection"
        title="The name of a further injection (A)"
      />
      <input
        class="field v"
        bind:value={vial}
        maxlength="20"
        placeholder="vial"
        aria-label="Its vial"
        title="Where it stands in the tray"
      />
      <button class="lnk" title="Adds it to the end"><kbd>Enter</kbd> adds it</button>
    </form>{/if}
</section>

<style>
  .rows {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
  }
  .hd {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 8px;
    min-height: 28px;
  }
  .acts {
    display: flex;
    gap: 12px;
    font-size: 12.5px;
    align-items: baseline;
  }
  [aria-pressed="true"] {
    font-weight: 600;
    border-bottom: 2px solid var(--ai);
  }
  .scroll {
    overflow-y: auto;
    min-height: 40px;
  }
  table {
    width: 100%;
  }
  td {
    max-width: 190px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  td button {
    min-height: 24px;
  }
  tr.on td {
    background: var(--paper-3);
  }
  tr.on td:first-child {
    box-shadow: inset 3px 0 0 var(--ai);
  }
  tr.mark td {
    background: var(--hover);
  }
  .row {
    text-align: left;
  }
  .bar {
    display: inline-block;
    width: 56px;
    height: 3px;
    background: var(--mist-2);
    vertical-align: middle;
  }
  .bar i {
    display: block;
    height: 3px;
    background: var(--ai);
  }
  .add {
    display: grid;
    grid-template-columns: 24px minmax(0, 1fr) 64px auto;
    gap: 8px;
    align-items: baseline;
    padding-top: 4px;
  }
</style>
