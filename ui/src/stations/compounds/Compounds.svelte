<script lang="ts">
  // Naming: click a peak, type a name. Windows and their rules stand on the chromatogram; the table says which peak wins.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Compound, Method } from "../../api/client";
  import { fixed, significant } from "../../look/number";
  import Foot from "../../parts/Foot.svelte";
  import Notices from "../../parts/Notices.svelte";
  import Chromatogram, { type Shown } from "../../plot/Chromatogram.svelte";
  import Minimap from "../../plot/Minimap.svelte";
  import { Window } from "../../plot/window.svelte";
  import { ask, desk, replicate } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { reason } from "../../state/reason.svelte";
  import type { StationProps } from "../props";
  import CompoundSettings from "./CompoundSettings.svelte";
  import CompoundTable from "./CompoundTable.svelte";
  import Drift from "./Drift.svelte";
  import Windows from "./Windows.svelte";

  let { batch, result, index }: StationProps = $props();
  const injection = $derived(batch.injections[index]);
  const method = $derived(batch.version.method);
  const trace = createQuery(() => ask.trace(batch.id, injection?.id ?? ""));
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
  const list = $derived(method.compounds.toSorted((a, b) => a.expected_min - b.expected_min));

  let selected = $state<number | null>(null);
  let hovered = $state<number | null>(null);
  let typed = $state("");
  let field = $state<HTMLInputElement>();
  const peak = $derived(peaks.find((p) => p.number === selected));
  const chosen = $derived(byId.get(place.query.c ?? ""));
  $effect(() => {
    const hit = peaks.find((p) => p.compound_id && p.compound_id === place.query.c);
    if (!hit) return;
    selected = hit.number;
    typed = hit.name;
  });

  function select(n: number | null) {
    selected = n;
    const p = peaks.find((q) => q.number === n);
    typed = p?.name ?? "";
    place.go({ query: { c: p?.compound_id ?? "" } }, false);
    if (p) queueMicrotask(() => field?.select());
  }
  const half = (c: Compound) => (c.window.kind === "percent" ? (c.expected_min * c.window.value) / 100 : c.window.value);
  const inWindow = (c: Compound) => peaks.filter((p) => Math.abs(p.apex_min - c.expected_min) <= half(c));

  const save = (compounds: Compound[], why: string, rest: Partial<Method> = {}) => desk.saveMethod({ ...method, ...rest, compounds }, why);
  const freshId = (name: string) => {
    const stem =
      name
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")
        .replace(/^-|-$/g, "") || "compound";
    let id = stem;
    for (let n = 2; byId.has(id); n++) id = `${stem}-${n}`;
    return id;
  };
  async function name(e: SubmitEvent) {
    e.preventDefault();
    const text = typed.trim();
    if (!peak || !text) return;
    const own = byId.get(peak.compound_id);
    const same = method.compounds.find((c) => c.name === text);
    if (own && own.name !== text)
      await save(
        method.compounds.map((c) => (c.id === own.id ? { ...c, name: text } : c)),
        `${own.name} renamed ${text}`,
      );
    else if (same && !own)
      await save(
        method.compounds.map((c) => (c.id === same.id ? { ...c, expected_min: Number(peak.apex_min.toFixed(3)) } : c)),
        `${text} is expected at ${peak.apex_min.toFixed(3)} min`,
      );
    else if (!own) {
      const gap = Math.min(...peaks.filter((p) => p.number !== peak.number).map((p) => Math.abs(p.apex_min - peak.apex_min)), 0.4);
      const id = freshId(text);
      const fresh: Compound = {
        id,
        name: text,
        expected_min: Number(peak.apex_min.toFixed(3)),
        window: { kind: "absolute", value: Number(Math.max(0.02, gap / 2).toFixed(3)) },
        rule: "nearest",
        role: "target",
      };
      if (await save([...method.compounds, fresh], `${text} named at ${peak.apex_min.toFixed(2)} min`))
        place.go({ query: { c: id } }, false);
    }
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
    const why = await reason.ask(`${c.name} is ${to === "target" ? "a target" : "the internal standard"}`);
    if (!why) return;
    await save(
      method.compounds.map((o) =>
        o.id === c.id
          ? { ...o, role: to, amount: to === "target" ? undefined : (o.amount ?? 1) }
          : to === "internal_standard"
            ? { ...o, role: "target", amount: undefined }
            : o,
      ),
      why,
    );
  }
  async function forget(c: Compound) {
    const why = await reason.ask(`Take ${c.name} off the list`);
    if (!why) return;
    const own = { ...method.curves.own };
    delete own[c.id];
    await save(
      method.compounds.filter((o) => o.id !== c.id),
      why,
      { curves: { ...method.curves, own } },
    );
  }
  $effect(() =>
    keys({
      ...view.keys(),
      Escape: () => select(null),
    }),
  );
</script>

<div class="stage rows">
  <main class="main">
    {#if !injection}
      <div class="empty">
        No injections yet. <button class="btn" onclick={() => place.go({ station: "batch" })}>Add files</button>
      </div>
    {:else}
      <div class="head">
        <h1>{injection.name} <em>{replicate(batch, index)}</em></h1>
        <span class="note">{peaks.filter((p) => p.name).length} of {method.compounds.length} compounds found in {peaks.length} peaks</span>
        <span class="tools"><button onclick={() => view.all()}><kbd>0</kbd> whole run</button></span>
      </div>
      <Chromatogram
        trace={trace.data}
        unit={injection.unit || "signal"}
        {peaks}
        {selected}
        {hovered}
        {view}
        {select}
        hover={(n) => (hovered = n)}
      >
        {#snippet over(f)}
          <Windows {f} {list} {half} chosen={chosen?.id} />
        {/snippet}
      </Chromatogram>
      <Minimap trace={trace.data} {view} />
      <CompoundTable
        {list}
        {method}
        {peaks}
        {inWindow}
        chosen={chosen?.id}
        {hovered}
        choose={(id) => place.go({ query: { c: id } }, false)}
        hover={(n) => (hovered = n)}
        {forget}
      />
    {/if}
  </main>
  <aside class="side">
    <section aria-label="Name a peak">
      <h2>{peak ? `Peak at ${peak.apex_min.toFixed(2)} min` : "Name a peak"}</h2>
      {#if peak}
        <form onsubmit={name}>
          <input
            class="field"
            aria-label="Name of the peak"
            bind:this={field}
            bind:value={typed}
            placeholder="Type its name"
            list="names"
            maxlength="100"
          />
          <datalist id="names"
            >{#each list as c (c.id)}<option value={c.name}></option>{/each}</datalist
          >
          <button class="btn pri" disabled={!typed.trim() || typed.trim() === peak.name}>{peak.name ? "Rename" : "Name it"}</button>
        </form>
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
        {half}
        set={(change, what) => set(chosen, change, what)}
        setRole={(to) => role(chosen, to)}
      />
      <Drift {batch} {result} compound={chosen} half={half(chosen)} {index} />
    {/if}
    <Notices {batch} {result} station="compounds" />
  </aside>
  <Foot
    hints={[
      ["click", "choose a peak"],
      ["J", ""],
      ["K", "run order"],
      ["drag", "zoom"],
      ["0", "whole run"],
      ["Esc", "let go"],
    ]}>{desk.done || "Windows stand on the time axis"}</Foot
  >
</div>

<style>
  .rows {
    grid-template-rows: minmax(0, 1fr) 24px;
  }
  form {
    display: flex;
    gap: 10px;
    margin: 6px 0 4px;
  }
  form .field {
    flex: 1;
    font-size: 14px;
    height: 28px;
  }
</style>
