<script lang="ts">
  import { count } from "../look/number";
  import { createQuery } from "@tanstack/svelte-query";
  import { type Batch, type Result, type View } from "../api/client";
  import { ask } from "../state/ask";
  import { desk } from "../state/desk.svelte";
  import { place, stationsOf, type Station } from "../state/place.svelte";
  import { fit } from "./fit";
  import BenchLink from "./BenchLink.svelte";
  import FindButton from "./FindButton.svelte";
  import Jobs from "./Jobs.svelte";
  import LightButton from "./LightButton.svelte";
  import Logo from "./Logo.svelte";
  import WhoIsHere from "./WhoIsHere.svelte";

  let { batch, result, history }: { batch: Batch | undefined; result: Result | undefined; history: View["history"] | undefined } = $props();

  // What is to look at is counted once somebody has begun to review.
  const review = createQuery(() => ask.review(batch?.id ?? "", batch?.reviewing ? batch.revision : 0));
  const counts = $derived.by(() => {
    const n: Record<string, number> = {};
    for (const notice of result?.notices ?? []) {
      if (!batch?.settled.includes(notice.key)) n[notice.station] = (n[notice.station] ?? 0) + 1;
    }
    if (review.data && !batch?.signed) n.review = review.data.items.filter((i) => i.judged?.verdict !== "accepted").length;
    return n;
  });
  const stations = $derived(stationsOf(batch));
  const at = $derived(stations.indexOf(place.station));
  const step1 = (by: number) => place.go({ station: stations[at + by]! });
</script>

{#snippet step(word: string, what: string | undefined, act: () => void, path: string)}
  <button
    class={word.toLowerCase()}
    title={what ? `${word} ${what}` : `Nothing to ${word.toLowerCase()}`}
    aria-label={word}
    disabled={!what}
    onclick={act}
  >
    <svg
      width="15"
      height="13"
      viewBox="0 0 15 13"
      fill="none"
      stroke="currentColor"
      stroke-width="1.3"
      stroke-linecap="round"
      stroke-linejoin="round"><path d={path} /></svg
    >
  </button>
{/snippet}

<header use:fit={["about", "find", "steps", "light", "yugen", "path", "name", "stations"]}>
  <a
    class="wm"
    title="All studies (Alt 0)"
    href="/"
    onclick={(e) => (e.preventDefault(), place.go({ batch: "", station: "batch", query: { i: "", c: "" } }))}
    aria-label="Yugen, all studies"
  >
    <Logo /><span class="yu">Yugen</span>
  </a>
  {#if batch}
    <span class="bn"
      ><b title={batch.name}
        ><span class="whole">{batch.name}</span><span class="parts" aria-hidden="true"
          ><span class="a">{batch.name.slice(0, -8)}</span><span class="z">{batch.name.slice(-8)}</span></span
        ></b
      ><span class="about">{count(batch.injections.length, "injection")}</span></span
    >
  {/if}
  <nav aria-label="Stations">
    {#each stations as s, i (s)}
      {#if i > 0}<i class="sep" aria-hidden="true"></i>{/if}
      <a
        href="/{place.batch}/{s}"
        class:on={place.station === s}
        title={`The station ${s[0]!.toUpperCase()}${s.slice(1)} (Alt ${i + 1})`}
        aria-current={place.station === s ? "page" : undefined}
        onclick={(e) => {
          if (e.ctrlKey || e.metaKey) return;
          e.preventDefault();
          place.go({ station: s });
        }}
        >{s[0]!.toUpperCase() + s.slice(1)}{#if counts[s]}<sup
            title={s === "review" ? `${counts[s]} to look at` : count(counts[s]!, "notice")}>{counts[s]}</sup
          >{/if}</a
      >
    {/each}
  </nav>
  <span class="folded">
    <button aria-label="Station before" title="The station before" disabled={at <= 0} onclick={() => step1(-1)}>‹</button>
    <select
      class="field"
      aria-label="Station"
      title="The station"
      value={place.station}
      onchange={(e) => place.go({ station: e.currentTarget.value as Station })}
    >
      {#each stations as s, i (s)}<option value={s}
          >{s[0]!.toUpperCase() + s.slice(1)}{counts[s] ? ` (${count(counts[s]!, "notice")})` : ""}, {i + 1} of {stations.length}</option
        >{/each}
    </select>
    <button aria-label="Next station" title="The next station" disabled={at === stations.length - 1} onclick={() => step1(1)}>›</button>
  </span>
  <span class="steps">
    {@render step("Undo", history?.undo, () => desk.undo(), "M5 1L1.5 4.5L5 8M1.5 4.5H9.5A3.6 3.6 0 0 1 9.5 11.7H6")}
    {@render step("Redo", history?.redo, () => desk.redo(), "M10 1L13.5 4.5L10 8M13.5 4.5H5.5A3.6 3.6 0 0 0 5.5 11.7H9")}
    <LightButton />
  </span>
  <BenchLink />
  <Jobs />
  <FindButton />
  <WhoIsHere />
</header>

<style>
  header {
    display: flex;
    align-items: center;
    padding: 0 16px;
    border-bottom: 1px solid var(--mist-1);
    position: relative;
    z-index: 5;
    overflow-x: clip;
  }
  header > :global(*) {
    flex: none;
  }
  /* What the bar gives up, in this order, until it fits. The mark, the station one is in, counts, undo, Find and initials never go. */
  :global([data-gone~="about"]) .about,
  :global([data-gone~="find"] .fw),
  :global([data-gone~="light"] .light),
  :global([data-gone~="yugen"]) .yu,
  :global([data-gone~="path"]) .sep,
  :global([data-gone~="stations"]) nav,
  :global([data-gone~="stations"]) :global(.redo),
  .folded {
    display: none;
  }
  :global([data-gone~="stations"]) .folded {
    display: flex;
  }
  :global([data-gone~="steps"]) .sep {
    width: 6px;
  }
  :global([data-gone~="yugen"]) .wm {
    margin-right: 10px;
  }
  :global([data-gone~="name"]) .bn {
    flex: 0 1 auto;
    min-width: 96px;
  }
  .folded {
    align-items: center;
    margin: 0 auto;
  }
  .folded button {
    width: 28px;
    height: 40px;
    font-size: 16px;
  }
  .folded select {
    font-weight: 600;
  }
  .wm {
    font: 500 19px/1 var(--f-read);
    letter-spacing: 0.015em;
    display: flex;
    align-items: center;
    gap: 8px;
    margin-right: 18px;
    color: var(--ink);
  }
  .bn {
    display: flex;
    align-items: baseline;
    gap: 8px;
    font-size: 12px;
    color: var(--ink-3);
    white-space: nowrap;
    padding-left: 16px;
    border-left: 1px solid var(--mist-1);
    line-height: 20px;
    min-width: 0;
    overflow: hidden;
  }
  /* Where it must be short, it gives up its middle: its end tells batches apart. */
  .bn b {
    min-width: 0;
  }
  .bn .parts {
    display: none;
    min-width: 0;
  }
  :global([data-gone~="name"]) .bn .parts {
    display: flex;
  }
  :global([data-gone~="name"]) .bn .whole {
    position: absolute;
    clip-path: inset(50%);
  }
  .bn .a {
    overflow: hidden;
    text-overflow: ellipsis;
    min-width: 0;
    white-space: pre;
  }
  .bn .z {
    flex: none;
    white-space: pre;
  }
  .bn b {
    font: 500 15px/20px var(--f-read);
    color: var(--ink);
  }
  nav {
    display: flex;
    align-items: center;
    height: 40px;
    margin: 0 auto;
  }
  nav a {
    position: relative;
    line-height: 40px;
    padding: 0 5px;
    color: var(--ink-2);
    white-space: nowrap;
  }
  nav sup {
    font-size: 11px;
    line-height: 0;
    font-weight: 600;
    color: var(--kaki-text);
    margin-left: 2px;
    vertical-align: 5px;
    top: 0;
  }
  nav a.on {
    color: var(--ink);
    font-weight: 600;
  }
  nav a.on::after {
    content: "";
    position: absolute;
    left: 3px;
    right: 3px;
    bottom: -1px;
    height: 3px;
    background: var(--ink);
    clip-path: polygon(0 45%, 6% 10%, 60% 0, 100% 40%, 96% 80%, 40% 100%, 4% 90%);
  }
  .sep {
    width: 14px;
    height: 1px;
    background: var(--mist-2);
    margin: 0 2px;
  }
  .steps {
    display: flex;
    gap: 1px;
    margin-right: 8px;
    color: var(--ink-2);
  }
  .steps button {
    display: grid;
    place-items: center;
    width: 28px;
    height: 28px;
  }
  .steps button:disabled {
    color: var(--mist-2);
    cursor: default;
  }
</style>
