<script lang="ts">
  // A run list that comes before its files: pasted from a spreadsheet, its lines wait and fill the run list as the files come.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../api/client";
  import { count } from "../../look/number";
  import { ask } from "../../state/ask";
  import { desk } from "../../state/desk.svelte";

  let { batch }: { batch: Batch } = $props();
  const query = createQuery(() => ask.waiting(batch.id, batch.revision));
  const list = $derived(query.data ?? []);
  let open = $state(false);
  let text = $state("");
  async function wait() {
    if (await desk.waitFor(text)) {
      text = "";
      open = false;
    }
  }
</script>

{#if list.length > 0 || open || batch.injections.length === 0}
  <section aria-label="Waiting run list">
    <h2>
      Run list first <span class="r"
        >{#if list.length > 0}{count(list.length, "line")} wait{:else}<button
            class="lnk"
            aria-expanded={open}
            title="Pastes a run list before there are files"
            onclick={() => (open = !open)}>paste one</button
          >{/if}</span
      >
    </h2>
    {#if open}
      <textarea
        class="field"
        rows="5"
        aria-label="Run list"
        title="Copied from a spreadsheet, with a line of headings"
        placeholder="File, Name, Role, Level …"
        bind:value={text}></textarea>
      <button class="btn" disabled={!text.trim()} title="Its lines wait for their files" onclick={wait}>Let them wait</button>
    {/if}
    {#each list.slice(0, 6) as w, k (k)}
      <p class="row">
        <span>{w.file || w.fields["name"] || `vial ${w.vial}`}</span><span class="mut"
          >{[w.fields["role"], w.fields["level"]].filter(Boolean).join(" ")}</span
        >
      </p>
    {/each}
    {#if list.length > 6}<p class="note">and {list.length - 6} more</p>{/if}
    {#if list.length > 0}
      <button class="lnk" title="Forgets the lines that still wait" onclick={() => desk.waitFor("")}>wait no longer</button>
    {:else if !open}<p class="note">Lines find their files by the file's name, the vial or the sample.</p>{/if}
  </section>
{/if}

<style>
  textarea {
    width: 100%;
    font-size: 12px;
    white-space: pre;
  }
  .row {
    display: flex;
    justify-content: space-between;
    font-size: 12.5px;
    border-bottom: 1px dotted var(--mist-2);
    line-height: 22px;
  }
</style>
