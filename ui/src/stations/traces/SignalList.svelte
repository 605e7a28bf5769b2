<script lang="ts">
  // The signals of the injection in groups: shown, hidden, taken off the list and had back, with their values at the pointer.
  import type { Trace } from "../../api/client";
  import { fixed, significant } from "../../look/number";
  import { valueAt } from "../../plot/thin";
  import { signals } from "../../state/signals.svelte";

  type Signal = {
    position: number;
    name: string;
    unit: string;
    kind: string;
    processed: boolean;
    trace: Trace | undefined;
  };
  let { list, pointer }: { list: Signal[]; pointer: number | null } = $props();
  const groups = $derived(
    (
      [
        ["Detectors", list.filter((s) => s.kind === "detector")],
        ["Conditions", list.filter((s) => s.kind === "condition")],
      ] as const
    ).filter(([, of]) => of.length > 0),
  );
  const at = (s: Signal) => {
    const v = pointer !== null && s.trace ? valueAt(s.trace, pointer) : null;
    return v === null ? "" : `${significant(v, 4)} ${s.unit}`;
  };
</script>

<section aria-label="Signals">
  <h2>Signals <span class="r">{pointer === null ? "" : `at ${fixed(pointer, 2)} min`}</span></h2>
  {#each groups as [word, of] (word)}
    <p class="grp">{word} <span class="mut">{of.length}</span></p>
    {#each of as s (s.position)}
      {@const gone = signals.removed(s)}
      <div class="row" class:off={!s.processed && signals.hidden(s)} class:gone>
        <i class={s.kind} class:first={s.processed} aria-hidden="true"></i>
        <span class="nm" title={s.name}>{s.name}{s.processed ? " · peaks" : ""}</span>
        <span class="num">{gone ? "" : at(s)}</span>
        {#if s.processed}<span></span>{:else if gone}
          <button class="lnk" title="Puts it back on the list and into the picture" onclick={() => signals.haveBack(s)}>have back</button>
        {:else}
          <span class="acts"
            ><button
              class="lnk"
              title={signals.hidden(s) ? "Puts it into the picture" : "Takes it out of the picture"}
              onclick={() => signals.toggle(s)}>{signals.hidden(s) ? "show" : "hide"}</button
            ><button
              class="mut"
              aria-label="Take {s.name} off the list"
              title="Takes it off the list, in the whole batch"
              onclick={() => signals.remove(s)}>×</button
            ></span
          >
        {/if}
      </div>
    {/each}
  {/each}
</section>

<style>
  .grp {
    display: flex;
    justify-content: space-between;
    font-size: 12px;
    color: var(--ink-2);
    border-bottom: 1px solid var(--mist-2);
    padding-top: 6px;
  }
  .row {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr) auto auto;
    gap: 6px;
    align-items: center;
    min-height: 25px;
    font-size: 12.5px;
    border-bottom: 1px solid var(--mist-1);
  }
  .nm {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .acts {
    display: flex;
    gap: 8px;
  }
  .off .nm {
    color: var(--ink-3);
  }
  .gone .nm {
    text-decoration: line-through;
  }
  i {
    height: 0;
    border-top: 1.5px solid var(--ink-2);
  }
  i.first {
    border-top-color: var(--ink);
    border-top-width: 2px;
  }
  i.condition {
    border-top-color: var(--ochre);
  }
</style>
