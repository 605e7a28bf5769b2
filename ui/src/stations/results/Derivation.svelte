<script lang="ts">
  // A derivation as it was given: each step with the numbers put in; indigo numbers open where they came from.
  import type { Working } from "../../api/client";
  import { significant } from "../../look/number";
  import { place, type Station } from "../../state/place.svelte";

  let { working }: { working: Working } = $props();
  type Term = Working["steps"][number]["top"][number];

  function follow(link: NonNullable<Term["link"]>) {
    place.go({
      station: link.station as Station,
      query: { i: link.injection_id ?? place.query.i, c: link.compound_id ?? place.query.c },
    });
  }
</script>

{#snippet terms(list: Term[])}
  {#each list as t, i (i)}{#if t.link}<button class="src" onclick={() => follow(t.link!)} title={`Opens where ${t.text} comes from`}
        >{t.text}</button
      >{:else}{t.text}{/if}{/each}
{/snippet}

<p class="note">{working.subject}</p>
<p class="value">
  {working.value === null ? "no value" : significant(working.value, 3)}
  <small>{working.value === null ? "" : working.unit}</small>
</p>
{#each working.steps as s, i (i)}
  <div class="step">
    <span class="n">{i + 1}</span>
    <div>
      <p class="note">{s.title}</p>
      <p class="formula">
        {#if s.bottom?.length}
          <span class="fraction"><span>{@render terms(s.top)}</span><span>{@render terms(s.bottom)}</span></span>
        {:else}<span>{@render terms(s.top)}</span>{/if}
        <span class="result">= {s.result}</span>
      </p>
    </div>
  </div>
{/each}
{#each working.doubts as d, i (i)}<p class="doubt">{d}</p>{/each}

<style>
  .value {
    font: 500 26px/1.3 var(--f-read);
    margin-bottom: 4px;
  }
  .value small {
    font: 400 13px var(--f-ui);
    color: var(--ink-2);
  }
  .step {
    display: grid;
    grid-template-columns: 20px 1fr;
    border-top: 1px solid var(--mist-1);
    padding: 5px 0 6px;
  }
  .n {
    color: var(--ink-3);
    font-size: 12px;
  }
  .formula {
    font: 400 14.5px/1.35 var(--f-read);
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 2px 6px;
    margin-top: 2px;
  }
  .fraction {
    display: inline-grid;
    justify-items: center;
  }
  .fraction span:last-child {
    border-top: 1px solid var(--ink);
    width: 100%;
    text-align: center;
  }
  .src {
    color: var(--ai);
    border-bottom: 1px solid color-mix(in srgb, var(--ai) 35%, transparent);
    line-height: 1.15;
    min-height: 24px;
    min-width: 24px;
  }
  .result {
    font-weight: 500;
  }
  .doubt {
    border-top: 1px solid var(--mist-1);
    padding-top: 6px;
    margin-top: 4px;
    color: var(--kaki-text);
    font-size: 12.5px;
    line-height: 1.35;
  }
</style>
