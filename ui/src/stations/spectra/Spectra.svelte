<script lang="ts">
  // What is this peak, and how sure? The run by its total ion and chosen ions, the peak close up, and its spectrum against what the libraries hold.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, type SpectrumHit } from "../../api/client";
  import { fixed } from "../../look/number";
  import ChannelChoice from "../../parts/ChannelChoice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Chromatogram, { type Shown } from "../../plot/Chromatogram.svelte";
  import LabelMenu from "../../plot/LabelMenu.svelte";
  import { Window } from "../../plot/window.svelte";
  import { ask, queries } from "../../state/ask";
  import { channelIn } from "../../state/channel";
  import { desk, replicate, traced } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { holds, place } from "../../state/place.svelte";
  import { who } from "../../state/who.svelte";
  import { named } from "../compounds/naming";
  import type { StationProps } from "../props";
  import CloseUp from "./CloseUp.svelte";
  import Lane from "./Lane.svelte";
  import Mirror from "./Mirror.svelte";
  import Purity from "./Purity.svelte";
  import Shapes from "./Shapes.svelte";
  import { cutWidth } from "./colourmap";
  import Wavelengths from "./Wavelengths.svelte";
  import Whole from "./whole/Whole.svelte";
  import WholeSide from "./whole/WholeSide.svelte";
  import Choice from "../../parts/Choice.svelte";
  import { ionOf, shown } from "./spectra.svelte";
  import SpectraSide from "./SpectraSide.svelte";

  let { batch, result, index, stale, channel }: StationProps = $props();
  const face = $derived(place.query.face === "batch" ? "batch" : "one");
  const injection = $derived(batch.injections[index]);
  const method = $derived(batch.version.method);
  const unit = $derived(result?.injections[index]?.unit || injection?.unit || "signal");
  const trace = createQuery(() => ask.trace(batch.id, traced(injection), channel.id));
  $effect(() => {
    for (const step of [1, -1]) {
      const next = batch.injections[index + step];
      if (next && traced(next)) void queries.prefetchQuery(ask.trace(batch.id, next.id, channel.id));
    }
  });
  const names = $derived(new Map(method.compounds.map((c) => [c.id, c])));
  const peaks = $derived<Shown[]>(
    (result?.injections[index]?.peaks ?? []).map((p) => ({
      ...p,
      name: names.get(p.compound_id)?.name ?? "",
      standard: names.get(p.compound_id)?.role === "internal_standard",
    })),
  );
  const view = new Window();
  $effect(() => {
    view.open(trace.data, result?.injections[index]?.peaks);
  });
  /** The moment that is looked at, min: it stays while injections are walked, and takes the peak that is nearest to it. */
  let moment = $state<number | null>(place.query.at ? Number(place.query.at) : null);
  const near = 0.12;
  const peak = $derived.by(() => {
    if (moment === null) {
      const wanted = peaks.find((p) => p.compound_id && p.compound_id === place.query.c);
      return wanted ?? peaks.toSorted((a, b) => b.height - a.height)[0];
    }
    const at = moment;
    const list = peaks
      .filter((p) => Math.abs(p.apex_min - at) < near)
      .toSorted((a, b) => Math.abs(a.apex_min - at) - Math.abs(b.apex_min - at));
    return list[0];
  });
  const at = $derived(peak?.apex_min ?? moment ?? null);
  const masses = $derived(!!injection && holds(injection, "mass"));
  const wavelengths = $derived(!!injection && !masses && holds(injection, "wavelength"));
  const purity = createQuery(() =>
    ask.purity(batch.id, batch.revision, traced(injection), channel.id, wavelengths && at !== null ? Number(at.toFixed(3)) : null),
  );
  const asked = $derived(
    at === null || at === undefined || !injection || !(masses || wavelengths)
      ? null
      : {
          at_min: Number(at.toFixed(4)),
          channel: channel.id,
          ...(shown.stretch ? { from_min: shown.stretch[0], to_min: shown.stretch[1] } : {}),
          ...(shown.background ? { background: shown.background } : {}),
          ...(shown.plain ? { plain: true } : {}),
        },
  );
  const query = createQuery(() => ask.identify(batch.id, batch.revision, traced(injection), asked));
  const found = $derived(asked ? query.data : undefined);
  const hits = $derived(shown.ordered(found?.hits ?? []));
  const hit = $derived<SpectrumHit | undefined>(hits.find((h) => h.id === shown.hit) ?? hits.find((h) => !h.rejected) ?? hits[0]);

  function select(number: number | null) {
    const p = peaks.find((q) => q.number === number);
    look(p ? p.apex_min : pointer);
  }
  function look(to: number | null) {
    if (to === null) return;
    shown.again();
    moment = to;
    place.go({ query: { at: to.toFixed(3), c: "" } }, false);
    if (to < view.from || to > view.to) view.show(to - (view.to - view.from) / 2, to + (view.to - view.from) / 2, false);
  }
  let pointer = $state<number | null>(null);
  let hovered = $state<number | null>(null);
  function step(by: number) {
    const list = peaks.toSorted((a, b) => a.apex_min - b.apex_min);
    const k = list.findIndex((p) => p.number === peak?.number);
    const next = list[k < 0 ? 0 : Math.max(0, Math.min(list.length - 1, k + by))];
    if (next) look(next.apex_min);
  }
  async function confirm() {
    if (!hit || !peak || peak.name) return;
    const change = named(method.compounds, peak, peaks, hit.name, channelIn(method, channel));
    if (!change) return;
    const off = hit.off === null || hit.off === undefined ? "" : `, index ${hit.off >= 0 ? "+" : "−"}${Math.abs(hit.off).toFixed(0)}`;
    await desk.saveMethod(
      { ...method, compounds: change.compounds },
      `${hit.name} confirmed at ${peak.apex_min.toFixed(2)} min by its spectrum: forward ${hit.forward.toFixed(1)}, reverse ${hit.reverse.toFixed(1)}${off}, ${hit.library}`,
    );
  }
  async function reject(why: string) {
    if (!hit || at === null || at === undefined) return;
    try {
      await who.sure();
      await answer(
        api.POST("/api/batches/{batch}/rejections", {
          params: { path: { batch: batch.id } },
          body: { name: hit.name, at_min: at, why, by: "" },
        }),
      );
      shown.hit = "";
      await queries.invalidateQueries({ queryKey: ["identify", batch.id] });
      await queries.invalidateQueries({ queryKey: ["record", batch.id] });
    } catch (error) {
      desk.trouble = (error as Error).message;
    }
  }
  let side = $state<{ askWhy: () => void }>();
  function alongHits(by: number) {
    const list = hits;
    const k = list.findIndex((h) => h.id === hit?.id);
    shown.hit = list[Math.max(0, Math.min(list.length - 1, k + by))]?.id ?? "";
  }
  const focus = (id: string) => setTimeout(() => document.getElementById(id)?.focus(), 30);
  function arrows(e: KeyboardEvent) {
    if ((e.key === "ArrowDown" || e.key === "ArrowUp") && !(e.target as Element).closest("input, select, textarea, [role=slider]")) {
      e.preventDefault();
      alongHits(e.key === "ArrowDown" ? 1 : -1);
    }
  }
  $effect(() => {
    if (face === "batch") return;
    return keys({
      "]": () => step(1),
      "[": () => step(-1),
      Enter: () => void confirm(),
      x: () => hit && !peak?.name && side?.askWhy(),
      b: () => (shown.plain = !shown.plain),
      a: () => focus("ions"),
      n: () => focus("own"),
      o: () => masses && (shown.map = !shown.map),
      "0": () => view.all(),
      Escape: () => shown.again(),
    });
  });
</script>

{#snippet faces()}
  <Choice
    label="Spectra of"
    options={[
      ["one", "one injection"],
      ["batch", "whole batch"],
    ]}
    value={face}
    choose={(f) => place.go({ query: { face: f === "batch" ? f : "" } })}
  />
{/snippet}
<svelte:window onkeydown={face === "one" ? arrows : undefined} />
<div class="stage">
  <main class="main">
    {#if !injection}<div class="empty">No injections yet.</div>
    {:else if face === "batch"}
      <div class="head">
        <h1>Whole batch</h1>
        <span class="note">all samples laid over each other</span>
        <span class="tools">{@render faces()}</span>
      </div>
      <Whole {batch} />
    {:else}
      <div class="head">
        <h1 title={injection.name}>{injection.name} <em>{replicate(batch, index)}</em></h1>
        <span class="note"
          >injection {index + 1} of {batch.injections.length} · {peaks.length} peaks, {peaks.filter((p) => p.name).length} named{stale
            ? " · processing …"
            : ""}</span
        >
        <span class="tools"
          >{@render faces()}<ChannelChoice {batch} {channel} /><LabelMenu />{#if masses}<button
              class="lnk"
              title="The peak and its spectrum, or the whole run over time and m/z (O)"
              onclick={() => (shown.map = !shown.map)}>{shown.map ? "the peak" : "map"}</button
            >{/if}<button class="lnk" title="The whole run (0)" onclick={() => view.all()}>whole run</button></span
        >
      </div>
      <div class="run">
        {#if trace.isError}<div class="empty">{trace.error.message}</div>
        {:else}
          <Chromatogram
            trace={trace.data}
            {unit}
            {peaks}
            selected={peak?.number ?? null}
            {hovered}
            {view}
            {select}
            hover={(n) => (hovered = n)}
            right={wavelengths || (masses && shown.map) ? cutWidth + 12 : 12}
            bind:pointer
          />
        {/if}
      </div>
      {#each masses ? shown.ions : [] as words (words)}<Lane
          batch={batch.id}
          injection={traced(injection)}
          {words}
          {view}
          at={found ? [found.from_min, found.to_min] : null}
        />{/each}
      <div class="lower">
        {#if wavelengths || (masses && shown.map)}<div class="whole"><Wavelengths {batch} {injection} {view} {look} {at} /></div>
        {:else if !masses}<div class="empty">No file of this injection holds spectra.</div>
        {:else if query.isError}<div class="empty">{query.error.message}</div>
        {:else if asked}
          <section aria-label="The peak">
            <h2>The peak <span class="note">drag an edge</span></h2>
            <CloseUp trace={trace.data} {found} />
          </section>
          <section aria-label="Its spectrum">
            <h2>
              Its spectrum <span class="note"
                >{found
                  ? `mean of ${found.scans} scans${found.background.length ? " less background" : ""}, in % of the largest line${hit && !hit.rejected ? ` · ${fixed(hit.strange_percent, 1)} % of the signal is not in the entry` : ""}`
                  : "…"}</span
              >
              <span class="tools"
                ><button class="lnk" title="With the background, or less it (B)" onclick={() => (shown.plain = !shown.plain)}
                  >{shown.plain ? "less background" : "with background"}</button
                ></span
              >
            </h2>
            <div class="plot">
              {#if found}<Mirror
                  peaks={found.peaks}
                  entry={hit?.peaks ?? []}
                  off={found.taken_off}
                  name="{injection.name}, {fixed(found.at_min, 2)} min"
                  entryName={hit ? `${hit.name}, ${hit.library}` : ""}
                  click={(mz, aside) => (aside ? shown.take(ionOf(mz)) : shown.add([ionOf(mz)]))}
                />{/if}
            </div>
          </section>
        {:else}<div class="empty">Choose a peak, or click a moment.</div>{/if}
      </div>
    {/if}
  </main>
  <Side>
    {#if face === "batch"}<WholeSide {batch} />{:else}<SpectraSide
        {batch}
        {found}
        {hit}
        {hits}
        name={peak?.name ?? ""}
        {confirm}
        {reject}
        injection={injection?.name ?? ""}
        bind:this={side}
      >
        {#snippet between()}
          {#if wavelengths}
            <Purity found={purity.data} />
            {#if purity.data && purity.data.axis.length}<Shapes found={purity.data} entry={hit} />{/if}
          {/if}
        {/snippet}
      </SpectraSide>{/if}
  </Side>
  <Foot
    hints={face === "batch"
      ? [
          ["[|]", "stretch"],
          ["↑|↓", "component"],
          ["Enter", "confirm"],
          ["X", "leave out"],
          ["J|K", "injection"],
        ]
      : wavelengths
        ? [
            ["[|]", "peak"],
            ["click", "a moment"],
            ["J|K", "injection"],
            ["0", "whole run"],
          ]
        : [
            ["[|]", "peak"],
            ["↑|↓", "hit"],
            ["Enter", "confirm"],
            ["X", "reject"],
            ["B", "background"],
            ["A", "ions"],
            ["J|K", "injection"],
          ]}
  >
    {#if face === "batch"}Nothing is named without a person{:else if pointer !== null}{fixed(pointer, 3)} min{:else if found?.index && at}Index
      {found.index.toFixed(0)} by the ladder of the method{/if}
  </Foot>
</div>

<style>
  .run {
    flex: 1 1 46%;
    min-height: 180px;
    display: flex;
    flex-direction: column;
  }
  .lower {
    flex: 1 1 40%;
    min-height: 210px;
    display: grid;
    grid-template-columns: 280px minmax(0, 1fr);
    gap: 16px;
    border-top: 1px solid var(--mist-1);
    padding: 6px 16px 4px;
  }
  .lower section {
    display: flex;
    flex-direction: column;
    min-height: 0;
  }
  .lower h2 {
    display: flex;
    gap: 10px;
    align-items: baseline;
    white-space: nowrap;
  }
  .lower h2 .note {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .lower .tools {
    font: 12.5px var(--f-ui);
    margin-left: auto;
  }
  .plot {
    flex: 1;
    min-height: 0;
  }
  .whole {
    grid-column: 1 / -1;
    min-height: 0;
    margin: 0 -16px;
  }
  .empty {
    grid-column: 1 / -1;
  }
</style>
