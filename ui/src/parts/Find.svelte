<script lang="ts">
  import type { Batch, Result } from "../api/client";
  import { desk, replicate } from "../state/desk.svelte";
  import { keys } from "../state/keys.svelte";
  import { light } from "../state/light.svelte";
  import { place, stations } from "../state/place.svelte";
  import { finder } from "./finder.svelte";

  let { batch, result }: { batch: Batch | undefined; result: Result | undefined } = $props();
  let text = $state("");
  let at = $state(0);
  let field = $state<HTMLInputElement>();

  type Hit = { kind: string; name: string; go: () => void };
  const all = $derived.by<Hit[]>(() => {
    const hits: Hit[] = stations.map((s) => ({
      kind: "station",
      name: s[0]!.toUpperCase() + s.slice(1),
      go: () => place.go({ station: s }),
    }));
    hits.push({ kind: "do", name: "Undo", go: () => desk.undo() });
    hits.push({ kind: "do", name: "Redo", go: () => desk.redo() });
    hits.push({ kind: "do", name: light.night ? "Paper" : "Night", go: () => light.toggle() });
    batch?.injections.forEach((inj, i) =>
      hits.push({
        kind: "injection",
        name: `${inj.name} ${replicate(batch, i)}`.trim(),
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
        go: () => place.go({ station: n.station as (typeof stations)[number], query: { i: n.injection_id, c: n.compound_id } }),
      }),
    );
    return hits;
  });
  const found = $derived(all.filter((h) => h.name.toLowerCase().includes(text.trim().toLowerCase())).slice(0, 12));

  $effect(() => keys({ "mod+k": () => (finder.open = true) }));
  $effect(() => {
    if (finder.open) {
      text = "";
      at = 0;
      field?.focus();
    }
  });

  function choose(hit: Hit | undefined) {
    finder.open = false;
    hit?.go();
  }
  function key(e: KeyboardEvent) {
    if (e.key === "Escape") finder.open = false;
    else if (e.key === "ArrowDown") at = Math.min(found.length - 1, at + 1);
    else if (e.key === "ArrowUp") at = Math.max(0, at - 1);
    else if (e.key === "Enter") choose(found[at]);
    else return;
    e.preventDefault();
  }
</script>

{#if finder.open}
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
  <div class="veil" onclick={() => (finder.open = false)}></div>
  <div class="find" role="dialog" aria-label="Find or do">
    <input
      bind:this={field}
      bind:value={text}
      oninput={() => (at = 0)}
      onkeydown={key}
      placeholder="A station, an injection, a compound, a notice, or what to do"
      role="combobox"
      aria-expanded="true"
      aria-controls="found"
      aria-activedescendant="found-{at}"
    />
    <ul id="found" role="listbox">
      {#each found as hit, i (hit.kind + i)}
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <li id="found-{i}" role="option" aria-selected={i === at} class:on={i === at} onclick={() => choose(hit)}>
          <span>{hit.name}</span><span class="mut">{hit.kind}</span>
        </li>
      {:else}
        <li class="mut">Nothing of that name.</li>
      {/each}
    </ul>
  </div>
{/if}

<style>
  .veil {
    position: fixed;
    inset: 0;
    background: var(--veil);
    z-index: 20;
  }
  .find {
    position: fixed;
    top: 90px;
    left: 50%;
    width: 520px;
    margin-left: -260px;
    background: var(--paper);
    border: 1px solid var(--ink-3);
    z-index: 21;
    padding: 10px 0 8px;
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
