<script lang="ts">
  // Naming: click a peak, type a name. Windows and their rules stand on the chromatogram; the table says which peak wins.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Compound, Method } from "../../api/client";
  import { count, fixed, significant } from "../../look/number";
  import Foot from "../../parts/Foot.svelte";
  import ChannelChoice from "../../parts/ChannelChoice.svelte";
  import Side from "../../parts/Side.svelte";
  import Notices from "../../parts/Notices.svelte";
  import Chromatogram, { type Shown } from "../../plot/Chromatogram.svelte";
  import Minimap from "../../plot/Minimap.svelte";
  import { Window } from "../../plot/window.svelte";
  import { ask, queries } from "../../state/ask";
  import { desk, replicate, traced } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { channelIn, channelOfCompound, inChannel } from "../../state/channel";
  import { place } from "../../state/place.svelte";
  import { reason } from "../../state/reason.svelte";
  import type { StationProps } from "../props";
  import AddMany from "./AddMany.svelte";
  import CompoundSettings from "./CompoundSettings.svelte";
  import CompoundTable from "./CompoundTable.svelte";
  import Drift from "./Drift.svelte";
  import LadderPanel from "./LadderPanel.svelte";
  import NameField from "./NameField.svelte";
  import { named } from "./naming";
  import { placeOf, type Place } from "./table";
  import Qualifiers from "./Qualifiers.svelte";
  import Windows from "./Windows.svelte";

  let { batch, result, index, channel }: StationProps = $props();
  const injection = $derived(batch.injections[index]);
  const method = $derived(batch.version.method);
  const trace = createQuery(() => ask.trace(batch.id, traced(injection), channel.id));
  const view = new Window();
  $effect(() => {
    view.open(trace.data, result?.injections[index]?.peaks);
  });

  const byId = $derived(new Map(method.compounds.map((c) => [c.id, c])));
  const peaks = $derived<Shown[]>(
    (result?.injections[index]?.peaks ?? []).map((p) => ({
      ...p,
      name: byId.get(p.compound_id)?.name ?? "",
      standard: byId.get(p.compound_id)?.role === "internal_standard",
    })),
  );
  /** Those that are looked for in the channel that is shown. */
  const here = $derived(method.compounds.filter((c) => channelOfCompound(method, c.id)?.id === channel.id));
  const list = $derived(method.compounds.toSorted((a, b) => a.expected_min - b.expected_min));

  let selected = $state<number | null>(null);
  let hovered = $state<number | null>(null);
  let many = $state(false);
  let naming = $state(false); // a click on a peak opens its name; walking does not
  const peak = $derived(peaks.find((p) => p.number === selected));
  const chosen = $derived(byId.get(place.query.c ?? ""));
  $effect(() => {
    const hit = peaks.find((p) => p.compound_id && p.compound_id === place.query.c);
    if (hit) selected = hit.number;
  });

  function select(n: number | null) {
    selected = n;
    naming = n !== null;
    const p = peaks.find((q) => q.number === n);
    place.go({ query: { c: p?.compound_id ?? "" } }, false);
  }
  $effect(() => {
    void injection?.id;
    naming = false;
  });
  const injected = $derived(result?.injections[index]);
  const inWindow = (c: Compound) => {
    const at = placeOf(c, injected);
    const there = injected && inChannel(injected, channelOfCompound(method, c.id)?.id ?? "");
    return (there?.peaks ?? []).filter((p) => Math.abs(p.apex_min - at.expected_min) <= at.half_min);
  };

  /** What named a compound that is no longer an internal standard, or no longer a target, lets go of it. */
  function save(compounds: Compound[], why: string, rest: Partial<Method> = {}) {
    const with_role = (role: Compound["role"]) => new Set(compounds.filter((c) => c.role === role).map((c) => c.id));
    const standards = with_role("internal_standard").add("none");
    const targets = with_role("target");
    const kept = compounds.map((c) => (c.against && !(targets.has(c.id) && standards.has(c.against)) ? { ...c, against: undefined } : c));
    const contents = method.curves.contents;
    const curves = contents
      ? {
          ...method.curves,
          contents: { ...contents, compounds: Object.fromEntries(Object.entries(contents.compounds).filter(([id]) => targets.has(id))) },
        }
      : method.curves;
    return desk.saveMethod({ ...method, curves, ...rest, compounds: kept }, why);
  }
  async function name(text: string) {
    const change = peak && named(method.compounds, peak, peaks, text, channelIn(method, channel));
    naming = false;
    if (change && (await save(change.compounds, change.why))) place.go({ query: { c: change.id } }, false);
  }
  async function set(c: Compound, change: Partial<Compound>, what: string) {
    const why = await reason.ask(`${c.name}: ${what}`);
    if (why)
      await save(
        method.compounds.map((o) => (o.id === c.id ? { ...o, ...change } : o)),
        why,
      );
  }
  async function role(c: Compound, to: Compound["role"]) {
    const why = await reason.ask(`${c.name} is ${to === "target" ? "a target" : "an internal standard"}`);
    if (!why) return;
    await save(
      method.compounds.map((o) => (o.id === c.id ? { ...o, role: to, amount: to === "target" ? undefined : (o.amount ?? 1) } : o)),
      why,
    );
  }
  /** A window that was dragged, in the unit in which it is stated. */
  function moveWindow(c: Compound, to: Place) {
    const now = placeOf(c, injected);
    const change: Partial<Compound> = {};
    let what = "";
    if (Math.abs(to.expected_min - now.expected_min) > 1e-6) {
      // Where references have moved the window, what is kept is where it would stand without them.
      change.expected_min = Number((c.expected_min + to.expected_min - now.expected_min).toFixed(3));
      what = `expected at ${change.expected_min} min`;
    } else if (Math.abs(to.half_min - now.half_min) > 1e-6) {
      change.window = { ...c.window, value: Number(((c.window.value * to.half_min) / now.half_min).toPrecision(3)) };
      what = `window ± ${change.window.value} ${c.window.kind === "percent" ? "%" : c.window.kind === "index" ? "index units" : "min"}`;
    }
    if (what) void set(c, change, what);
  }
  async function addMany(list: Compound[]) {
    const why = await reason.ask(`Add ${count(list.length, "compound")}`, list.map((c) => c.name).join(", "));
    if (why && (await save([...method.compounds, ...list], why))) many = false;
  }
  async function setLadder(ladder: Method["ladder"], what: string) {
    const why = await reason.ask(`Retention index: ${what}`);
    if (why) await save(method.compounds, why, { ladder });
  }
  /** Takes a compound off the list, after saying what that does to the others. */
  async function forget(c: Compound) {
    const own = { ...method.curves.own };
    delete own[c.id];
    const compounds = method.compounds.filter((o) => o.id !== c.id);
    const curves = { ...method.curves, own };
    const tried = await queries
      .fetchQuery(
        ask.tryMethod(batch.id, batch.revision, {
          injection_id: injection?.id ?? "",
          compound_id: c.id,
          method: { ...method, compounds, curves },
        }),
      )
      .catch(() => undefined);
    const does = tried?.problem
      ? tried.problem
      : tried && tried.moved + tried.lost > 0
        ? `${[
            tried.moved > 0 && `${count(tried.moved, "mean")} of samples move`,
            tried.lost > 0 && `${count(tried.lost, "mean")} can no longer be read`,
          ]
            .filter(Boolean)
            .join("; ")}.`
        : "No other amount changes.";
    const why = await reason.ask(`Take ${c.name} off the list`, does);
    if (why) await save(compounds, why, { curves });
  }
  $effect(() =>
    keys({
      ...view.keys(),
      n: () => (naming = peak !== undefined),
      Escape: () => select(null),
    }),
  );
</script>

<div class="stage">
  <main class="main">
    {#if !injection}
      <div class="empty">
        No injections yet. <button
          class="btn"
          title="Opens the batch, where files are dropped"
          onclick={() => place.go({ station: "batch" })}>Add files</button
        >
      </div>
    {:else}
      <div class="head">
        <h1 title={injection.name}>{injection.name} <em>{replicate(batch, index)}</em></h1>
        <span class="note"
          >{peaks.filter((p) => p.name).length} of {method.compounds.length} compounds found in {count(peaks.length, "peak")}</span
        >
        <span class="tools"
          ><ChannelChoice {batch} {channel} /><button
            class="lnk"
            onclick={() => (many = !many)}
            title="Names many peaks of one injection at once">Add many</button
          ><button onclick={() => view.all()} title="Shows the whole run (0)"><kbd>0</kbd> whole run</button></span
        >
      </div>
      <Chromatogram
        trace={trace.data}
        unit={injected?.unit || "signal"}
        {peaks}
        {selected}
        {hovered}
        {view}
        {select}
        hover={(n) => (hovered = n)}
      >
        {#snippet over(f)}
          <Windows {f} list={here} {injected} {peaks} chosen={chosen?.id} move={moveWindow} />
          {#if peak && naming && !many}
            <NameField {f} {peak} y={peak.baseline_start + peak.height} {list} {name} leave={() => select(null)} />
          {/if}
        {/snippet}
      </Chromatogram>
      <Minimap trace={trace.data} {view} />
      {#if many}
        <AddMany {batch} {method} {peaks} {index} hover={(n) => (hovered = n)} keep={addMany} close={() => (many = false)} />
      {:else}
        <CompoundTable
          {list}
          {batch}
          {injected}
          {inWindow}
          chosen={chosen?.id}
          {hovered}
          choose={(id) => place.go({ query: { c: id } }, false)}
          hover={(n) => (hovered = n)}
          {forget}
        />
      {/if}
    {/if}
  </main>
  <Side>
    <section aria-label="Name a peak">
      <h2>{peak ? `Peak at ${peak.apex_min.toFixed(2)} min` : "Name a peak"}</h2>
      {#if peak}
        <p class="note">
          Area {significant(peak.area_s, 4)}
          {injection?.unit || "signal"}·s, {fixed(peak.area_percent, 2)} % of the trace.
        </p>
      {:else}<p class="note">Click a peak on the chromatogram, then type. The name appears on every injection at once.</p>{/if}
    </section>
    {#if chosen}
      <CompoundSettings
        compound={chosen}
        {method}
        there={inWindow(chosen)}
        at={placeOf(chosen, injected)}
        set={(change, what) => set(chosen, change, what)}
        setRole={(to) => role(chosen, to)}
      />
      <Qualifiers {batch} compound={chosen} {injected} set={(change, what) => set(chosen, change, what)} />
      <Drift {batch} {result} compound={chosen} {index} />
    {/if}
    {#if method.ladder || method.compounds.length > 0}<LadderPanel batch={batch.id} {method} {peaks} save={setLadder} />{/if}
    <Notices {batch} {result} station="compounds" />
  </Side>
  <Foot
    hints={[
      ["click", "choose a peak"],
      ["J|K", "run order"],
      ["drag", "zoom"],
      ["0", "whole run"],
      ["Esc", "select nothing"],
    ]}>{desk.done || "Windows stand on the time axis"}</Foot
  >
</div>

<style>
</style>
