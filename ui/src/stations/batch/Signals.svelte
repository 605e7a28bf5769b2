<script lang="ts">
  // The signals that the batch's files hold, and which of them is processed.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../api/client";
  import { count } from "../../look/number";
  import { ask, desk } from "../../state/desk.svelte";

  let { batch }: { batch: Batch } = $props();
  const query = createQuery(() => ask.signals(batch.id, batch.revision));
  const list = $derived(query.data ?? []);
  const edited = $derived(batch.injections.filter((i) => i.edits.length > 0).length);
</script>

{#if list.length > 1}
  <section aria-label="Signals">
    <h2>Signals <span class="r">one is processed</span></h2>
    {#each list as s (s.name + s.unit)}
      {@const here = s.processed === s.in}
      <button
        class="row"
        class:on={s.processed > 0}
        role="radio"
        aria-checked={s.processed > 0}
        title={s.kind === "condition"
          ? "A condition of the run: it can be processed, though it holds no peaks of compounds"
          : here
            ? "Processed in every injection that has it"
            : `Processes it in every injection that has it${edited ? "; edits by hand stay with the signal they were made on" : ""}`}
        disabled={here}
        onclick={() => desk.chooseSignal(s.name, s.unit)}
      >
        <i aria-hidden="true"></i><span class:mut={s.kind === "condition"}>{s.name}{s.unit ? `, ${s.unit}` : ""}</span>
        <span class="mut n"
          >{s.kind === "condition" ? "condition · " : ""}{s.processed > 0 && !here
            ? `in ${s.processed} of ${s.in}`
            : count(s.in, "injection")}</span
        >
      </button>
    {/each}
    {#if query.isError}<p class="att" role="alert">{query.error.message}</p>{/if}
  </section>
{/if}

<style>
  .row {
    display: grid;
    grid-template-columns: 18px 1fr auto;
    align-items: baseline;
    width: 100%;
    min-height: 24px;
    text-align: left;
    font-size: 12.5px;
    border-bottom: 1px solid var(--mist-1);
  }
  .row:disabled {
    cursor: default;
  }
  i {
    width: 9px;
    height: 9px;
    border: 1px solid var(--ink-3);
    border-radius: 50%;
  }
  .on i {
    border-color: var(--ai);
    background: var(--ai);
    box-shadow: inset 0 0 0 2px var(--paper);
  }
</style>
