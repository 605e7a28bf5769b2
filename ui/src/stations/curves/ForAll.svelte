<script lang="ts">
  // Shape and weight over all compounds: what they have in common, which differ, and one choice for all of them.
  import type { Compound, Method } from "../../api/client";
  import { count } from "../../look/number";
  import { modelWords, weightWords } from "./calibration";

  let {
    compound,
    method,
    go,
    save,
  }: {
    /** Whose shape and weight can be taken for all. */
    compound: Compound;
    method: Method;
    go: (id: string) => void;
    save: (curves: Partial<Method["curves"]>, what: string, detail: string) => void;
  } = $props();

  const targets = $derived(method.compounds.filter((c) => c.role === "target"));
  const has = (c: Compound) => ({
    model: method.curves.own?.[c.id]?.model || method.curves.model,
    weight: method.curves.own?.[c.id]?.weight || method.curves.weight,
  });
  const words = (h: ReturnType<typeof has>) => `${modelWords[h.model]}, weight ${weightWords[h.weight]}`;
  const mine = $derived(words(has(compound)));
  /** The shape and weight that most have; the others differ from it. */
  const usual = $derived.by(() => {
    const n = new Map<string, number>();
    for (const c of targets) n.set(words(has(c)), (n.get(words(has(c))) ?? 0) + 1);
    return [...n].toSorted((a, b) => b[1] - a[1])[0]?.[0] ?? "";
  });
  const unlike = $derived(targets.filter((c) => words(has(c)) !== usual));
  function all() {
    const { model, weight } = has(compound);
    const changed = targets.filter((c) => words(has(c)) !== mine);
    const own = Object.fromEntries(
      Object.entries(method.curves.own ?? {}).map(([id, o]) => [id, { ...o, model: undefined, weight: undefined }]),
    );
    save({ model, weight, own }, mine, `It changes ${count(changed.length, "compound")}: ${changed.map((c) => c.name).join(", ")}.`);
  }
</script>

{#if targets.length > 1}
  <section aria-label="All compounds">
    <h2>All compounds <span class="r">{targets.length}</span></h2>
    {#if unlike.length === 0}<p class="note">All have the same: {usual}.</p>
    {:else}
      <p class="note">{targets.length - unlike.length} have {usual}; {unlike.length === 1 ? "one differs" : `${unlike.length} differ`}:</p>
      {#each unlike as c (c.id)}
        <p class="row">
          <button class="lnk" title="Shows its curve" onclick={() => go(c.id)}>{c.name}</button><span class="mut">{words(has(c))}</span>
        </p>
      {/each}
      <button
        class="lnk all"
        title="Gives every compound the shape and weight of {compound.name}; what changes is said before"
        onclick={all}>All as {compound.name}: {mine}</button
      >
    {/if}
    {#if unlike.length === 0}<p class="note">
        A shape or weight chosen above is of {compound.name} alone, and can then be given to all.
      </p>{/if}
  </section>
{/if}

<style>
  .row {
    display: flex;
    justify-content: space-between;
    gap: 10px;
    font-size: 12.5px;
  }
  .row .lnk,
  .all {
    min-height: 24px;
    text-align: left;
    font-size: 12.5px;
  }
</style>
