<script lang="ts">
  // One condition: true, getting there, waiting for another, or waiting for a person. Never a lamp alone: always with its words.
  import type { BenchCondition, BenchPost } from "../api/client";
  import { bench, lasting } from "./bench.svelte";

  let { post, c, first }: { post: BenchPost; c: BenchCondition; /** The one that Y is for. */ first: boolean } = $props();
  const word: Record<string, string> = { true: "true", coming: "getting there", after: "waits for another", person: "you" };
</script>

<div class="cond">
  <svg width="14" height="14" viewBox="0 0 14 14" role="img" aria-label={word[c.standing]}>
    {#if c.standing === "true"}<path class="tick" d="M2.5 7.5L6 11L12 3.5" />
    {:else if c.standing === "coming"}<circle class="way" cx="7" cy="7" r="5" /><circle
        class="got"
        cx="7"
        cy="7"
        r="5"
        pathLength="100"
        stroke-dasharray="{(c.share ?? 0) * 100} 100"
        transform="rotate(-90 7 7)"
      />
    {:else if c.standing === "person"}<path class="you" d="M7 1.5L13 12.5H1ZM7 5.5V9M7 10.4V11.4" />
    {:else}<circle class="dot" cx="7" cy="7" r="2" />{/if}
  </svg>
  <span class="name" class:att={c.standing === "person"} class:mut={c.standing === "after"}>{c.name}</span>
  <span class="says mut">
    {#if c.standing === "person" && c.looked}<button
        class="lnk"
        title="Your name goes into the record"
        onclick={() => bench.act(post.id, { kind: "looked", what: c.id })}
        >{c.answer ?? "I have looked"}{#if first}&nbsp;<kbd>Y</kbd>{/if}</button
      >
    {:else}{c.says}{#if c.left_s !== null && c.standing === "coming"}, {lasting(c.left_s)}{/if}{/if}
  </span>
  {#if c.help && c.standing === "person"}<span class="help note"
      >{c.help}{#if c.world && post.stand_in}&nbsp;
        <button
          class="lnk"
          title="There is no room around a stand-in: it is done here"
          onclick={() => bench.act(post.id, { kind: "world", what: c.world! })}>Done (stand-in)</button
        >{/if}</span
    >{/if}
</div>

<style>
  .cond {
    display: grid;
    grid-template-columns: 18px auto minmax(0, 1fr);
    column-gap: 0;
    align-items: center;
    min-height: 24px;
    font-size: 13px;
  }
  .name {
    white-space: nowrap;
  }
  .says {
    line-height: 16px;
    text-align: right;
    font-size: 12.5px;
    padding-left: 8px;
  }
  .help {
    grid-column: 2 / 4;
    padding-bottom: 4px;
  }
  path,
  circle {
    fill: none;
    stroke-width: 1.6;
  }
  .tick {
    stroke: var(--moss);
  }
  .way {
    stroke: var(--mist-2);
  }
  .got {
    stroke: var(--ai);
  }
  .you {
    stroke: var(--kaki);
    stroke-width: 1.3;
  }
  .dot {
    fill: none;
    stroke: var(--mist-3);
    stroke-width: 1.2;
  }
</style>
