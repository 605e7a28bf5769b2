<script lang="ts">
  // Which injections are shown, what they read at the pointer, and which can be added.
  import type { Batch, Injection } from "../../api/client";
  import { fixed } from "../../look/number";
  import Glyph, { stairSteps } from "../../parts/Glyph.svelte";
  import { place } from "../../state/place.svelte";

  let {
    batch,
    shown,
    current,
    levels,
    title,
    most,
    full,
    at,
    note,
    line,
    value,
    setShown,
    proposed,
    add,
    remove,
  }: {
    batch: Batch;
    shown: Injection[];
    current: string | undefined;
    levels: number[];
    title: (i: Injection) => string;
    most: number;
    full: boolean;
    /** The time of the pointer, min. */
    at: number | null;
    note: string;
    line: ((k: number) => { colour: string; dash: string | undefined }) | undefined;
    value: (k: number) => string;
    setShown: (ids: string[]) => void;
    proposed: string[];
    add: (id: string) => void;
    remove: (id: string) => void;
  } = $props();

  const kinds = [
    ["standards", "standard"],
    ["checks", "check"],
    ["blanks", "blank"],
    ["samples", "sample"],
  ] as const;
  const samples = $derived(new Set(batch.injections.filter((i) => i.role === "sample").map((i) => i.name)).size);
  /** What could not be shown of what was asked for. */
  let left = $state("");
  const said = $derived(
    left || (shown.length === proposed.length && samples > 8 ? `8 of ${samples} samples to begin with; “samples” shows them.` : ""),
  );
  function showAll(word: string, role: string) {
    const seen = new Set<string>();
    // Of a sample one injection stands for its replicates.
    const list = batch.injections.filter(
      (i) => i.role === role && !i.typed && (role !== "sample" || (!seen.has(i.name) && seen.add(i.name))),
    );
    left = list.length > most ? `The first ${most} of ${list.length} ${word}: more than ${most} traces at once cannot be told apart.` : "";
    setShown(list.slice(0, most).map((i) => i.id));
  }
</script>

<section aria-label="Shown">
  <h2>Shown <span class="r">{note}</span></h2>
  <div class="row th">
    <span></span><span>Injection</span><span>{at === null ? "" : `at ${fixed(at, 2)}`}</span><span></span>
  </div>
  {#each shown as inj, k (inj.id)}
    <div class="row" class:own={inj.id === current}>
      <Glyph role={inj.role} steps={stairSteps(inj.level, levels)} />
      <button class="nm" onclick={() => place.go({ query: { i: inj.id } }, false)} title="Brings this injection to the front">
        {#if line}<svg width="22" height="6" aria-hidden="true"
            ><path
              d="M0 3H22"
              stroke="var({inj.id === current ? '--kaki' : line(k).colour})"
              stroke-width="1.6"
              stroke-dasharray={inj.id === current ? undefined : line(k).dash}
            /></svg
          >{/if}
        {title(inj)}
      </button>
      <span class="num">{value(k)}</span>
      <button class="mut" aria-label="Hide {title(inj)}" title="Takes this trace out of the picture" onclick={() => remove(inj.id)}
        >×</button
      >
    </div>
  {/each}
  <select
    class="field addone"
    aria-label="Add an injection"
    title="Shows one more injection beside these"
    value=""
    disabled={full}
    onchange={(e) => (add(e.currentTarget.value), (e.currentTarget.value = ""))}
  >
    <option value="">{full ? `At most ${most} at once` : "Add an injection"}</option>
    {#each batch.injections.filter((i) => !shown.includes(i)) as i (i.id)}<option value={i.id}>{title(i)}</option>{/each}
  </select>
  <p class="quick">
    {#each kinds as [word, role] (role)}
      <button class="lnk" title="Shows the {word} in place of these" onclick={() => showAll(word, role)}>{word}</button>
    {/each}
  </p>
  {#if said}<p class="note" role="status">{said}</p>{/if}
</section>

<style>
  .row {
    display: grid;
    grid-template-columns: 18px 1fr 52px 14px;
    gap: 4px;
    align-items: center;
    border-bottom: 1px solid var(--mist-1);
    min-height: 25px;
    font-size: 12.5px;
  }
  .row.th {
    color: var(--ink-3);
    font-size: 12px;
  }
  .row.th span:nth-child(3) {
    text-align: right;
  }
  .row.own {
    background: var(--row-kaki);
    box-shadow: inset 3px 0 0 var(--kaki);
    font-weight: 600;
  }
  .nm {
    text-align: left;
    display: flex;
    align-items: center;
    gap: 6px;
    overflow: hidden;
    white-space: nowrap;
  }
  .addone {
    width: 100%;
    margin-top: 6px;
  }
  .quick {
    display: flex;
    gap: 12px;
    margin-top: 8px;
    font-size: 12px;
  }
</style>
