<script lang="ts">
  import { createQuery } from "@tanstack/svelte-query";
  import type { Component } from "svelte";
  import Help from "./help/Help.svelte";
  import AskReason from "./parts/AskReason.svelte";
  import Find from "./parts/Find.svelte";
  import AskName from "./parts/AskName.svelte";
  import People from "./people/People.svelte";
  import InstallationPage from "./people/Installation.svelte";
  import Record from "./record/Record.svelte";
  import Lock from "./parts/Lock.svelte";
  import Shelf from "./parts/shelf/Shelf.svelte";
  import Scroll from "./parts/Scroll.svelte";
  import TopBar from "./parts/TopBar.svelte";
  import { nameControls } from "./parts/tooltips";
  import { nextPart } from "./parts/walk";
  import Underway from "./parts/Underway.svelte";
  import { channelOf, channelOfCompound, resultIn } from "./state/channel";
  import { ask } from "./state/ask";
  import { desk, watchBatch } from "./state/desk.svelte";
  import { keys } from "./state/keys.svelte";
  import { place, stations, stationsOf, type Station } from "./state/place.svelte";
  import { load } from "./stations/load";
  import type { StationProps } from "./stations/props";
  import { intake } from "./stations/batch/intake.svelte";

  // All of them come once the first is drawn, so that no later step waits.
  const views = $state.raw<{ [s in Station]?: Component<StationProps> }>({});
  let loaded = $state(0);
  async function fetch(station: Station) {
    if (views[station]) return;
    try {
      views[station] = (await load[station]()).default;
      loaded++;
    } catch {
      // One that was only fetched ahead is asked for again when it is wanted, and says so then: here it would stand in place of what a person must know.
      if (station === place.station)
        desk.trouble = "A part of the application does not come: the server is away, or newer than this window. Load the window again.";
    }
  }
  $effect(() => void fetch(place.station));
  $effect(() => {
    const later = setTimeout(() => stations.forEach((s) => void fetch(s)), 1500);
    return () => clearTimeout(later);
  });

  const batchQuery = createQuery(() => ask.batch(place.batch));
  const batch = $derived(batchQuery.data?.batch);
  const history = $derived(batchQuery.data?.history);
  const resultQuery = createQuery(() => ask.result(place.batch, intake.running ? 0 : (batch?.revision ?? 0)));
  const result = $derived(resultQuery.data?.result);
  const chosen = $derived(batch?.injections.findIndex((i) => i.id === place.query.i) ?? -1);
  const index = $derived.by(() => {
    if (!batch) return -1;
    if (chosen >= 0) return chosen;
    const sample = batch.injections.findIndex((i) => i.role === "sample");
    return sample >= 0 ? sample : batch.injections.length - 1;
  });
  // A result that is of another batch, or not yet of this run list, must not be shown beside it.
  const fitting = $derived(
    result &&
      batch &&
      result.injections.length === batch.injections.length &&
      result.injections.every((r, i) => r.id === batch.injections[i]!.id)
      ? result
      : undefined,
  );

  // A compound brings its channel with it; without one it is the channel that was looked at last.
  const channel = $derived(
    batch && (channelOfCompound(batch.version.method, place.query.c) ?? channelOf(batch.version.method, place.query.channel)),
  );
  $effect(() => {
    if (!batch || !channel) return;
    const query = { channel: channel.id === batch.version.method.channels[0]!.id ? "" : channel.id };
    if ((place.query.channel ?? "") !== query.channel) place.go({ query }, false);
  });
  const seen = $derived(fitting && channel && resultIn(fitting, channel.id));

  // Another signal was chosen, here, by undo, or in another window.
  let drawn = { batch: "", traces: "" };
  $effect(() => {
    if (!batch) return;
    const now = { batch: batch.id, traces: batch.injections.map((i) => `${i.id} ${i.trace}`).join() };
    const before = drawn;
    drawn = now;
    const known = new Set(before.traces.split(","));
    if (before.batch === now.batch && now.traces.split(",").some((t) => !known.has(t) && before.traces.includes(t.split(" ")[0]!)))
      desk.forgetTraces(batch.id);
  });

  const typed = $derived(!!batch && batch.injections.length > 0 && batch.injections.every((i) => i.typed));

  $effect(() => watchBatch());
  $effect(() => nameControls());
  $effect(() => {
    document.title = batch ? `${batch.name} · ${place.station[0]?.toUpperCase()}${place.station.slice(1)} · Yugen` : "Yugen";
  });

  function walk(step: number) {
    if (!batch || batch.injections.length === 0) return;
    const to = Math.max(0, Math.min(batch.injections.length - 1, index + step));
    place.go({ query: { i: batch.injections[to]!.id } }, false);
  }
  $effect(() =>
    keys({
      "alt+0": () => place.go({ batch: "", station: "batch", query: { i: "", c: "", face: "" } }),
      F6: () => nextPart(1),
      "shift+F6": () => nextPart(-1),
      j: () => walk(1),
      k: () => walk(-1),
      "mod+z": () => desk.undo(),
      "mod+shift+z": () => desk.redo(),
      // Which stations there are is asked when a key is pressed: bound anew with every change of the batch, these keys would come before those of the station.
      ...Object.fromEntries(
        stations.map((_, n) => [
          `alt+${n + 1}`,
          () => {
            const station = stationsOf(batch)[n];
            if (station) place.go({ station });
          },
        ]),
      ),
    }),
  );
  const View = $derived(loaded > 0 ? views[place.station] : undefined);
</script>

<Underway />
{#if place.page === "people"}
  <People />
{:else if place.page === "record"}
  <Record />
{:else if place.page === "bench"}
  {#await import("./bench/Bench.svelte") then page}<page.default />{/await}
{:else if place.page === "api"}
  {#await import("./people/Contract.svelte") then page}<page.default />{/await}
{:else if place.page === "settings"}
  <InstallationPage />
{:else if place.batch === "" || batchQuery.isError}
  <Shelf problem={batchQuery.isError ? batchQuery.error.message : ""} />
{:else}
  <div class="desk" aria-busy={desk.busy}>
    <TopBar {batch} result={fitting} history={batch?.signed ? undefined : history} />
    <Scroll {batch} result={fitting} {index} />
    {#if desk.trouble || resultQuery.isError}
      <div class="trouble" role="alert">
        <span>{desk.trouble || resultQuery.error?.message}</span>
        {#if resultQuery.isError}<button class="lnk" onclick={() => resultQuery.refetch()}>Try again</button>{/if}
        <button class="lnk" onclick={() => (desk.trouble = "")}>Close</button>
      </div>
    {/if}
    {#if batch?.signed}<Lock {batch} />{/if}
    {#if batch && typed && !["batch", "curves", "results", "review", "report"].includes(place.station)}
      <main class="empty">
        <span>These readings were typed: there are no chromatograms behind them.</span>
        <button class="lnk" title="Opens the curve of these readings" onclick={() => place.go({ station: "curves" })}>Their curve</button>
      </main>
    {:else if batch && channel && View}
      <View {batch} {channel} result={seen} {index} stale={resultQuery.isFetching || result !== fitting} />
    {:else}
      <main class="empty">Opening the batch …</main>
    {/if}
  </div>
  <AskReason />
{/if}
<AskName />
<Help batch={place.batch === "" ? undefined : batch} result={fitting} />
<Find batch={place.batch === "" ? undefined : batch} result={fitting} />

<style>
  .desk {
    display: grid;
    grid-template: 41px auto auto auto minmax(0, 1fr) / minmax(0, 1fr);
    height: 100%;
  }
  .empty {
    grid-row: 5;
  }
  .desk > :global(.stage) {
    grid-row: 5;
  }
  .trouble {
    grid-row: 3;
    display: flex;
    gap: 16px;
    padding: 5px 16px;
    background: var(--row-kaki);
    color: var(--kaki-text);
    border-bottom: 1px solid var(--kaki);
  }
</style>
