<script lang="ts">
  // The instruments in the band: each with its state in words and its signal as it comes.
  import type { BenchPost } from "../api/client";
  import { bench, clock } from "./bench.svelte";

  let { posts, chosen }: { posts: BenchPost[]; chosen: string } = $props();
  const silent = (p: BenchPost) => !p.state || (p.silent_s ?? 99) > 10;
  const done = (p: BenchPost) => p.state?.rows.filter((r) => ["done", "hurt", "cut"].includes(r.state)).length ?? 0;
  function line(p: BenchPost): string {
    const o = p.outline;
    return o.length < 2 ? "" : `M${o.map((v, i) => `${((i / 159) * 200).toFixed(1)} ${(34 - v * 30).toFixed(1)}`).join("L")}`;
  }
  const words = (p: BenchPost) =>
    !p.state
      ? "does not answer"
      : silent(p)
        ? "does not answer; it goes on by itself"
        : p.state.phase === "running"
          ? `running, ${clock(p.state.at)}`
          : p.state.says;
</script>

<div class="band" role="tablist" aria-label="Instruments">
  {#each posts as p, i (p.id)}
    <button
      role="tab"
      aria-selected={p.id === chosen}
      class:on={p.id === chosen}
      title="{p.name}: {words(p)} ({i + 1})"
      onclick={() => (bench.chosen = p.id)}
    >
      <span class="what">
        <span class="hd"><b>{p.name}</b> <span class:att={p.needs > 0 || silent(p)}>{words(p)}</span></span>
        <span class="mut">{p.speed && p.speed !== 1 ? `time × ${p.speed}; ` : ""}{p.says}</span>
        <span
          >{#if p.list}{p.list.batch}, {done(p)} of {p.state?.rows.length || p.list.rows.length}{:else}<span class="mut">no list</span
            >{/if}</span
        >
      </span>
      {#if p.outline.length > 1}
        <svg width="200" height="40" viewBox="0 0 200 40" aria-hidden="true">
          <path class="rest" d="M{p.live_share * 200} 34H200" /><path class:att={p.needs > 0} d={line(p)} />
          <circle cx={((p.outline.length - 1) / 159) * 200} cy={34 - p.outline.at(-1)! * 30} r="2.4" />
        </svg>
      {/if}
    </button>
  {/each}
</div>

<style>
  .band {
    display: flex;
    height: var(--h-scroll);
    background: var(--paper-2);
    border-bottom: 1px solid var(--mist-1);
    overflow-x: auto;
  }
  button {
    flex: 1 1 0;
    max-width: 600px;
    display: flex;
    justify-content: space-between;
    gap: 12px;
    align-items: center;
    padding: 8px 16px;
    text-align: left;
    border-right: 1px solid var(--mist-1);
    min-width: 250px;
    overflow: hidden;
  }
  button.on {
    background: var(--paper);
    box-shadow: inset 0 -2px 0 var(--ink);
  }
  .what {
    display: grid;
    gap: 1px;
    min-width: 0;
    line-height: 18px;
    white-space: nowrap;
  }
  .what > span {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .hd b {
    font: 500 17px/20px var(--f-read);
    margin-right: 6px;
  }
  svg {
    flex: 0 1 200px;
    min-width: 60px;
  }
  path {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1;
  }
  path.att {
    stroke: var(--kaki);
  }
  .rest {
    stroke: var(--mist-2);
    stroke-dasharray: 1 3;
  }
  circle {
    fill: var(--ink);
  }
  @media (max-width: 1100px) {
    svg {
      display: none;
    }
  }
</style>
