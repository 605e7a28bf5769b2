<script lang="ts">
  // The working of a number: each step with the numbers put in; indigo numbers open where they came from.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Working } from "../../api/client";
  import { sheet } from "../../help/sheet.svelte";
  import { ask } from "../../state/ask";
  import { copied } from "../../state/copying";
  import Derivation from "./Derivation.svelte";

  let { batch, revision, injection, compound }: { batch: string; revision: number; injection: string; compound: string } = $props();
  const query = createQuery(() => ask.working(batch, revision, injection, compound));
  const working = $derived(query.data);
  let taken = $state(false);
  $effect(() => {
    sheet.working = working;
    return () => (sheet.working = undefined);
  });
  function formulas() {
    sheet.formulas = true;
    sheet.open = true;
  }
  async function copy(w: Working) {
    taken = await copied(w.text);
    setTimeout(() => (taken = false), 1500);
  }
</script>

<section aria-label="Working">
  <h2>
    Working <span class="r"
      >{#if working}<button class="lnk" onclick={formulas} title="The formulas that it follows, and where they are from"
          >how and from where</button
        >
        <button class="lnk" onclick={() => copy(working)} title="Copies this working as lines of text"
          >{taken ? "copied" : "copy as text"}</button
        >{:else}indigo numbers open their source{/if}</span
    >
  </h2>
  {#if query.isError}
    <p class="att">{query.error.message}</p>
  {:else if !working}
    <p class="note">{query.isFetching ? "Working it out …" : "Choose a number to see how it came about."}</p>
  {:else}
    <Derivation {working} />
  {/if}
</section>

<style>
  button + button {
    margin-left: 12px;
  }
</style>
