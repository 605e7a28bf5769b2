<script lang="ts">
  // The way to the bench, with how many things there only a person can do; where there are no instruments, Find leads there.
  import { createQuery } from "@tanstack/svelte-query";
  import { count } from "../look/number";
  import { ask } from "../state/ask";
  import { place } from "../state/place.svelte";

  const posts = createQuery(() => ask.bench(4000));
  const needs = $derived((posts.data ?? []).reduce((n, p) => n + p.needs, 0));
  const what = $derived(
    needs > 0 ? `The bench: ${count(needs, "thing")} for a person to do` : "The bench: instruments and what they measure",
  );
</script>

{#if (posts.data ?? []).length > 0}
  <a
    class="bench"
    class:on={place.page === "bench"}
    href="/bench"
    title={what}
    aria-current={place.page === "bench" ? "page" : undefined}
    onclick={(e) => {
      if (e.ctrlKey || e.metaKey) return;
      e.preventDefault();
      place.home("bench");
    }}
    >Bench{#if needs > 0}<sup>{needs}</sup>{/if}</a
  >
{/if}

<style>
  .bench {
    position: relative;
    line-height: 40px;
    color: var(--ink-2);
    margin-right: 14px;
    white-space: nowrap;
  }
  .bench.on {
    color: var(--ink);
    font-weight: 600;
  }
  .bench.on::after {
    content: "";
    position: absolute;
    left: -2px;
    right: -2px;
    bottom: -1px;
    height: 3px;
    background: var(--ink);
    clip-path: polygon(0 45%, 6% 10%, 60% 0, 100% 40%, 96% 80%, 40% 100%, 4% 90%);
  }
  sup {
    font-size: 11px;
    line-height: 0;
    font-weight: 600;
    color: var(--kaki-text);
    margin-left: 2px;
    vertical-align: 5px;
    top: 0;
  }
</style>
