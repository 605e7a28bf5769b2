<script lang="ts">
  // Ions in lanes: typed, or taken from a list that the study keeps by compound or class.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, Problem, type Batch } from "../../api/client";
  import { count } from "../../look/number";
  import { ask, queries } from "../../state/ask";
  import { who } from "../../state/who.svelte";
  import { shown } from "./spectra.svelte";

  let { batch }: { batch: Batch } = $props();
  const lists = createQuery(() => ask.ionLists(batch.id));
  let typed = $state("");
  let said = $state("");
  let name = $state("");
  let group = $state("");
  const kept = $derived(lists.data ?? []);
  const sought = $derived(typed.trim().toLowerCase());
  const found = $derived(
    sought === "" || /^[\d.]/.test(sought)
      ? []
      : kept.filter((l) => l.name.toLowerCase().includes(sought) || (l.class ?? "").toLowerCase().includes(sought)),
  );
  /** Enter adds what is not shown yet, and says what was. */
  function draw(list: string[], of: string) {
    const added = shown.add(list);
    const there = list.filter((w) => shown.ions.includes(w)).length - added;
    const without = list.length - added - there;
    said = `${of}: ${count(added, "trace")} added${there ? `, ${there} shown already` : ""}${without ? `, ${without} without room` : ""}.`;
    typed = "";
  }
  function take() {
    if (/^[\d.]/.test(sought)) {
      const list = sought
        .split(/[\s,;]+/)
        .filter(Boolean)
        .map((w) => (/[±]/.test(w) ? w : `${w}±0.3`));
      draw(list, "Ions");
    } else if (found[0]) draw(found[0].ions, found[0].name);
    else said = sought ? `The study keeps no ions of “${typed.trim()}”.` : "";
  }
  async function keep(called: string, ions: string[], as = "") {
    said = "";
    try {
      await who.sure();
      await answer(
        api.POST("/api/batches/{batch}/ions", { params: { path: { batch: batch.id } }, body: { name: called, class: as, ions } }),
      );
      await queries.invalidateQueries({ queryKey: ["ion lists"] });
      said = ions.length ? `Kept: ${called}.` : `${called} is taken away.`;
      name = group = "";
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      said = error.message;
    }
  }
</script>

<section aria-label="Ions in lanes">
  <h2>Ions <span class="r">{kept.length ? count(kept.length, "list") + " kept" : ""}</span></h2>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      take();
    }}
  >
    <input
      class="field"
      id="ions"
      bind:value={typed}
      placeholder="69, 93 … or a compound, a class"
      title="m/z to draw in lanes, or the name of a kept list or its class; Enter adds those that are not there (A)"
    />
  </form>
  {#each found as l, k (l.name)}
    <p class="list" class:on={k === 0}>
      <button class="lnk" title="Draws them" onclick={() => draw(l.ions, l.name)}>{l.name}</button>
      <span class="mut">{l.class ? `${l.class} · ` : ""}{l.ions.join(", ")}</span>
      <button class="lnk" aria-label="Take {l.name} away" title="Takes this list out of the study" onclick={() => keep(l.name, [])}
        >×</button
      >
    </p>
  {/each}
  <p class="acts">
    {#each shown.removed as words (words)}<button class="lnk gone" title="Has this trace back" onclick={() => shown.add([words])}
        >{words}</button
      >{/each}
  </p>
  {#if shown.ions.length}<form
      class="acts"
      onsubmit={(e) => {
        e.preventDefault();
        if (name.trim()) void keep(name.trim(), shown.ions, group.trim());
      }}
    >
      <input
        class="field"
        bind:value={name}
        maxlength="80"
        placeholder="keep shown as …"
        title="Keeps the shown ions by this name in the study"
      />
      <input class="field" bind:value={group} maxlength="80" placeholder="class" title="A class that the list is found by, too" />
      <button class="btn" disabled={!name.trim()} title="Keeps them">Keep</button>
    </form>{/if}
  <p class="note" role="status">{said || (lists.isError ? lists.error.message : "")}</p>
</section>

<style>
  section > form > .field {
    width: 100%;
  }
  .acts {
    display: flex;
    gap: 8px;
    align-items: baseline;
    margin: 4px 0;
    font-size: 12.5px;
    flex-wrap: wrap;
  }
  .acts .field {
    flex: 1;
    min-width: 0;
  }
  .list {
    display: grid;
    grid-template-columns: auto 1fr auto;
    gap: 8px;
    font-size: 12.5px;
    line-height: 20px;
    padding-left: 6px;
  }
  .list.on {
    box-shadow: inset 2px 0 var(--kaki);
  }
  .list .mut {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .gone {
    text-decoration: line-through;
  }
</style>
