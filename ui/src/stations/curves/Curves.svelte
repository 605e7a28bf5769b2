<script lang="ts">
  import type { Compound, Curve, Method } from "../../api/client";
  import { count, fixed, significant } from "../../look/number";
  import Choice from "../../parts/Choice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Notices from "../../parts/Notices.svelte";
  import { desk, replicate } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { reason } from "../../state/reason.svelte";
  import type { StationProps } from "../props";
  import { wayWords, type Deviation, type Own, type Way } from "./calibration";
  import Compare from "./Compare.svelte";
  import CurvePlot from "./CurvePlot.svelte";
  import EarlierCurves from "./EarlierCurves.svelte";
  import ForAll from "./ForAll.svelte";
  import Factors from "./Factors.svelte";
  import Limits from "./Limits.svelte";
  import ModelPanel from "./ModelPanel.svelte";
  import Moved from "./Moved.svelte";
  import PointTable from "./PointTable.svelte";
  import Statistics from "./Statistics.svelte";
  import Tiles from "./Tiles.svelte";

  let { batch, result, index, stale }: StationProps = $props();
  const method = $derived(batch.version.method);
  const byId = $derived(new Map(method.compounds.map((c) => [c.id, c])));
  const curves = $derived(result?.curves ?? []);
  const curve = $derived(curves.find((c) => c.compound_id === place.query.c) ?? curves[0]);
  const compound = $derived(curve ? byId.get(curve.compound_id) : undefined);
  const fit = $derived(curve?.fit);
  const standard = $derived(byId.get(curve?.against ?? ""));
  const levels = $derived([...new Set((curve?.points ?? []).map((p) => p.level))].sort((a, b) => a - b));
  const contents = $derived([...new Set((curve?.points ?? []).map((p) => p.content))].sort((a, b) => a - b));
  const noticed = $derived(
    new Set((result?.notices ?? []).filter((n) => n.station === "curves" && !batch.settled.includes(n.key)).map((n) => n.compound_id)),
  );

  let log = $state(false);
  let hovered = $state<string | null>(null);
  const samples = $derived(
    (result?.injections ?? []).flatMap((r, i) => {
      const reading = curve ? r.readings[curve.compound_id] : undefined;
      if (batch.injections[i]?.role !== "sample" || !reading || reading.concentration === null || reading.response === null) return [];
      return [
        {
          id: r.id,
          name: `${batch.injections[i]!.name} ${replicate(batch, i)}`,
          x: reading.concentration,
          y: reading.response,
        },
      ];
    }),
  );
  const pointed = $derived(samples.find((s) => s.id === batch.injections[index]?.id));
  const above = $derived(fit && fit.model !== "one_point" ? samples.filter((s) => s.x > fit.high_x).length : 0);
  function change(c: Compound, own: Partial<Own>, why: string) {
    const before = method.curves.own?.[c.id] ?? {};
    return desk.saveMethod({ ...method, curves: { ...method.curves, own: { ...method.curves.own, [c.id]: { ...before, ...own } } } }, why);
  }
  async function changeAll(curves: Partial<Method["curves"]>, what: string, detail = "") {
    const why = await reason.ask(`All compounds: ${what}`, detail);
    if (why) await desk.saveMethod({ ...method, curves: { ...method.curves, ...curves } }, why);
  }
  async function toggle(id: string) {
    if (!compound || !curve) return;
    const point = curve.points.find((p) => p.injection_id === id);
    if (!point) return;
    const out = batch.choices.left_out?.[compound.id] ?? [];
    const at = batch.injections.findIndex((i) => i.id === id);
    const name = `${batch.injections[at]?.name} ${replicate(batch, at)}`;
    const why = await reason.ask(point.left_out ? `Take ${name} back into the curve` : `Leave ${name} out of the curve`, compound.name);
    if (!why) return;
    const list = point.left_out ? out.filter((o) => o.injection_id !== id) : [...out, { injection_id: id, reason: why }];
    await desk.saveChoices(
      { ...batch.choices, left_out: { ...batch.choices.left_out, [compound.id]: list } },
      `${compound.name}: ${name} ${point.left_out ? "back in" : "left out"}, ${why}`,
    );
  }
  function setRange(low: number, high: number) {
    if (!compound) return;
    change(
      compound,
      { low_x: low <= contents[0]! ? undefined : low, high_x: high >= contents.at(-1)! ? undefined : high },
      `${compound.name}: range ${low} to ${high} ${method.curves.unit}`,
    );
  }
  const chooseCompound = (c: Curve) => place.go({ query: { c: c.compound_id } }, false);
  /** Takes a level out for this compound, keeps it as it is now for batches to come, or takes it into use again. */
  async function setLevel(level: number, state: "in use" | "left_out" | "kept") {
    if (!compound || !curve) return;
    const others = (batch.choices.levels?.[compound.id] ?? []).filter((l) => l.level !== level);
    const words = state.replace("_", " ");
    const why = await reason.ask(`${compound.name}: the level ${level} ${method.curves.unit} is ${words}`);
    if (!why) return;
    const kept = curve.points
      .filter((p) => p.level === level && !p.left_out)
      .map((p) => ({ injection_id: p.injection_id, x: p.x, response: p.response, content: p.content, measure: p.measure }));
    const mine = state === "in use" ? [] : [{ level, state, reason: why, ...(state === "kept" ? { kept, from: batch.name } : {}) }];
    await desk.saveChoices(
      { ...batch.choices, levels: { ...batch.choices.levels, [compound.id]: [...others, ...mine] } },
      `${compound.name}: level ${level} ${words}, ${why}`,
    );
  }
  async function chooseLimits(l: { lod: number; loq: number; way: Way } | null) {
    if (!compound) return;
    const unit = method.curves.unit;
    const why = await reason.ask(
      l
        ? `${compound.name}: not detected below ${significant(l.lod, 3)}, quantified from ${significant(l.loq, 3)} ${unit}`
        : `${compound.name}: without chosen limits`,
    );
    if (why) await change(compound, { limits: l ? { ...l, reason: why } : undefined }, `${compound.name}: limits, ${why}`);
  }
  /** Takes the limits of one way for every compound that has them by it. */
  function limitsForAll(way: Way, limits: { compound: string; lod: number; loq: number }[], without: string[]) {
    const own = { ...method.curves.own };
    for (const l of limits)
      own[l.compound] = { ...own[l.compound], limits: { lod: l.lod, loq: l.loq, way, reason: `for all compounds by ${wayWords[way]}` } };
    const detail = `${count(limits.length, "compound")} change.${without.length ? ` ${without.join(", ")}: no number this way, left as it is.` : ""}`;
    void changeAll({ own }, `limits by ${wayWords[way]}`, detail);
  }
  let view = $state<"curve" | "limits" | "factors">("curve");
  let low = $state(false);
  let kind = $state<Deviation>("back");
  let means = $state(false);
  let other = $state<Curve | null>(null);
  const kinds: [Deviation, string][] = [
    ["back", "back-calculated"],
    ["relative", "relative"],
    ["residual", "residual"],
  ];
  $effect(() =>
    keys({
      l: () => (log = !log),
      z: () => (low = !low),
      x: () => hovered && toggle(hovered),
      ...Object.fromEntries(curves.slice(0, 9).map((c, i) => [String(i + 1), () => chooseCompound(c)])),
    }),
  );
</script>

<div class="stage">
  <main class="main">
    {#if !result}
      <div class="empty">Processing the batch …</div>
    {:else if !curve || !compound}
      <div class="empty">No compounds yet. Name the peaks of a standard at the Compounds station.</div>
    {:else}
      <Tiles {curves} {method} chosen={curve} {noticed} choose={chooseCompound} />
      <div class="head">
        <h1>{compound.name}</h1>
        <span class="note"
          >{method.curves.response}{standard ? ` ÷ ${method.curves.response} of ${standard.name}` : ""}, against {method.curves.unit}{stale
            ? " · processing …"
            : ""}</span
        >
        <span class="tools">
          {#if view === "curve"}
            <label class="chk" title="Draws the lowest levels large (Z)"
              ><input type="checkbox" bind:checked={low} /><kbd>Z</kbd> low end</label
            >
            <label class="chk" title="Draws the mean of each level under the curve"
              ><input type="checkbox" bind:checked={means} />means of levels</label
            >
            <select
              class="field"
              aria-label="What stands under the curve"
              title="What is drawn under the curve: deviations, residuals or others"
              bind:value={kind}
            >
              {#each kinds as [k, word] (k)}<option value={k}>{word}</option>{/each}
            </select>
            <Choice
              label="Axis"
              options={[
                ["linear", "linear"],
                ["log", "log"],
              ]}
              value={log ? "log" : "linear"}
              choose={(v) => (log = v === "log")}
            />
          {/if}
          <Choice
            label="View"
            options={[
              ["curve", "curve"],
              ["limits", "limits"],
              ["factors", "factors"],
            ]}
            value={view}
            choose={(v) => (view = v)}
          />
        </span>
      </div>
      {#if view === "limits"}
        <Limits {batch} {compound} choose={chooseLimits} all={limitsForAll} />
      {:else if view === "factors"}
        <Factors {curves} {method} chosen={curve} choose={chooseCompound} />
      {:else}
        <div class="body">
          <div class="left">
            {#if curve.additions?.length}
              <div class="additions">
                <p class="note">By standard addition: what each sample held before anything was added.</p>
                <table>
                  <thead
                    ><tr><th class="l">Sample</th><th>{method.curves.unit}</th><th>± SE</th><th>Intercept</th><th>Slope</th><th>R²</th></tr
                    ></thead
                  >
                  <tbody>
                    {#each curve.additions as a (a.name)}
                      <tr
                        ><td class="l">{a.name}</td>{#if a.addition}<td>{significant(a.addition.x, 4)}</td><td
                            >{significant(a.addition.standard_error, 2)}</td
                          ><td>{significant(a.addition.fit.coefficients[0], 4)}</td><td>{significant(a.addition.fit.coefficients[1], 4)}</td
                          ><td>{fixed(a.addition.fit.r2, 5)}</td>{:else}<td class="l att" colspan="5">{a.problem}</td>{/if}</tr
                      >
                    {/each}
                  </tbody>
                </table>
              </div>
            {:else if curve.points.length === 0}
              <div class="empty">{curve.problem || "No standard holds it yet."}</div>
            {:else}
              <CurvePlot
                {curve}
                {method}
                {log}
                {low}
                {kind}
                {means}
                {other}
                {hovered}
                hover={(id) => (hovered = id)}
                choose={toggle}
                {samples}
                {pointed}
                range={setRange}
              />
            {/if}
          </div>
          <div class="right">
            <PointTable
              {curve}
              {method}
              states={batch.choices.levels?.[compound.id] ?? []}
              {levels}
              {hovered}
              hover={(id) => (hovered = id)}
              {toggle}
              {setLevel}
            />
            {#each curve.blocks ?? [] as b, k (k)}
              <p class="note">
                Calibration {k + 1}, around injection {(b.position + 1).toFixed(0)}:
                {b.fit ? `slope ${significant(b.fit.coefficients.at(-1), 4)}` : b.problem}
              </p>
            {/each}
          </div>
        </div>
      {/if}
    {/if}
  </main>
  <Side>
    {#if curve && compound}
      <section aria-label="Verdict">
        <p class="verdict">
          {#if fit}{curve.verdict.good}{#if curve.verdict.doubt}; <span class="att">{curve.verdict.doubt}</span
              >{:else if curve.verdict.largest_deviation_percent !== null}; every level within {fixed(
                Math.abs(curve.verdict.largest_deviation_percent),
                1,
              )} %{/if}.{:else if curve.problem}<span class="att">{curve.problem}</span>{:else}Amounts by standard addition.{/if}
        </p>
      </section>
      <EarlierCurves {batch} {curve} />
      <ModelPanel {compound} {curve} {method} change={(own, why) => change(compound, own, why)} {changeAll} />
      <ForAll {compound} {method} go={(id) => place.go({ query: { c: id } }, false)} save={changeAll} />
      {#if fit}
        <Statistics
          {curve}
          {method}
          useRange={setRange}
          read={samples.length === 0
            ? "No sample is read from it."
            : `${samples.length} sample injections read from it${fit.model === "one_point" ? "" : above ? `, ${above} above its range` : ", all inside or below its range"}.`}
        />
        <Moved {batch} {compound} />
        {#if !curve.relative_to}
          <Compare {batch} {method} {compound} {curve} bind:other take={(own, why) => change(compound, own, why)} />
        {/if}
      {/if}
    {/if}
    <Notices {batch} {result} station="curves" />
  </Side>
  <Foot
    hints={[
      ["1 – 9", "compound"],
      ["X", "leave the pointed one out, asks why"],
      ["L", "linear or log axis"],
      ["Z", "low end"],
      ["J|K", "sample shown on the curve"],
    ]}>{batch.version.name}, version {batch.version.number}: {batch.version.reason}</Foot
  >
</div>

<style>
  .body {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: minmax(0, 1fr) 396px;
    gap: 8px;
  }
  .left {
    min-height: 0;
    min-width: 0;
    overflow: auto;
  }
  @container main (max-width: 760px) {
    .body {
      grid-template-columns: minmax(0, 1fr);
      overflow: auto;
    }
    .left,
    .right {
      overflow: visible;
    }
    .right {
      padding-left: 16px;
    }
  }
  .right {
    overflow: auto;
    padding-right: 12px;
    min-height: 0;
  }
  .tools select {
    width: auto;
    font-size: 12.5px;
    padding: 0;
  }
  .additions {
    padding: 8px 16px;
  }
  .verdict {
    font: 400 17px/1.35 var(--f-read);
  }
</style>
