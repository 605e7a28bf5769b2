<script lang="ts">
  // Ways of looking that were worth keeping: kept with the study, had back with one press; and the picture as it stands, to take away.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../api/client";
  import { savePNG, saveSVG } from "../../plot/picture";
  import { ask } from "../../state/ask";
  import { desk } from "../../state/desk.svelte";
  import { place } from "../../state/place.svelte";

  let { batch, picture }: { batch: Batch; /** What is taken away as a picture. */ picture: string } = $props();
  const query = createQuery(() => ask.views(batch.id));
  const list = $derived(query.data ?? []);
  let name = $state("");
  const kept = ["mode", "heights", "lined", "from", "to", "channel"] as const;
  async function keep(e: SubmitEvent) {
    e.preventDefault();
    const by = new Map(batch.injections.map((i) => [i.id, i]));
    const named = (id: string | undefined) => {
      const i = by.get(id ?? "");
      return i ? { name: i.name, role: i.role } : undefined;
    };
    const looked = Object.fromEntries(kept.flatMap((k) => (place.query[k] ? [[k, place.query[k]!]] : [])));
    const shown = (place.query.show ?? "").split(",").flatMap((id) => named(id) ?? []);
    if (await desk.keepView(name.trim(), { looked, shown, less: named(place.query.less) ?? null })) name = "";
  }
  /** Injections are had back by their names, so that a view serves every batch of the study. */
  function back(v: (typeof list)[number]) {
    const find = (n: { name: string; role: string }) => batch.injections.find((i) => i.name === n.name && i.role === n.role)?.id;
    const show = v.view.shown.flatMap((n) => find(n) ?? []).join(",");
    const less = (v.view.less && find(v.view.less)) ?? "";
    const blank = Object.fromEntries(kept.map((k) => [k, ""]));
    place.go({ query: { ...blank, ...v.view.looked, show: show || undefined, less } });
  }
  const element = () => document.querySelector<HTMLElement>(picture);
</script>

<section aria-label="Views">
  <h2>Views <span class="r">of the study</span></h2>
  {#each list as v (v.id)}
    <p class="row">
      <button class="lnk" title="Looks so again" onclick={() => back(v)}>{v.name}</button>
      <button
        class="lnk"
        aria-label="{v.name} on a report"
        title="Draws it as a report"
        onclick={() => place.go({ station: "report", query: { mode: "view", view: v.id } })}>report</button
      >
      <button
        class="mut"
        aria-label="Drop the view {v.name}"
        title="Drops the view; nothing else changes"
        onclick={() => desk.dropView(v.id)}>×</button
      >
    </p>
  {/each}
  <form class="row" onsubmit={keep}>
    <input
      class="field"
      aria-label="Name of the view"
      title="Keeps what is shown, and how, under a name"
      placeholder="keep this as …"
      bind:value={name}
    />
    <button class="btn" disabled={!name.trim()} title="Keeps what is shown, and how, with the study">Keep</button>
  </form>
  <p class="take">
    the picture as
    <button class="lnk" title="Writes the picture as lines" onclick={() => element() && saveSVG(element()!, `${batch.name}, traces`)}
      >SVG</button
    >
    <button
      class="lnk"
      title="Writes the picture as points, twice the size"
      onclick={() => element() && void savePNG(element()!, `${batch.name}, traces`)}>PNG</button
    >
  </p>
</section>

<style>
  .row {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    align-items: center;
    min-height: 26px;
    font-size: 12.5px;
  }
  .row .field {
    flex: 1;
    min-width: 0;
  }
  .take {
    display: flex;
    gap: 10px;
    font-size: 12.5px;
    padding-top: 4px;
  }
</style>
