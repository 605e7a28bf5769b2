<script lang="ts">
  import type { Compound, Curve, Method } from "../../api/client";
  import { fixed, rSquared, signed, significant } from "../../look/number";
  import Choice from "../../parts/Choice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Glyph, { stairSteps } from "../../parts/Glyph.svelte";
  import Mark from "../../parts/Mark.svelte";
  import Notices from "../../parts/Notices.svelte";
  import { desk, replicate } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { reason } from "../../state/reason.svelte";
  import type { StationProps } from "../props";
  import CurvePlot from "./CurvePlot.svelte";

  let { batch, result, index, stale }: StationProps = $props();
  const method = $derived(batch.version.method);
  const byId = $derived(new Map(method.compounds.map((c) => [c.id, c])));
  const curves = $derived(result?.curves ?? []);
  const curve = $derived(curves.find((c) => c.compound_id === place.query.c) ?? curves[0]);
  const compound = $derived(curve ? byId.get(curve.compound_id) : undefined);
  const fit = $derived(curve?.fit);
  const standard = $derived(method.compounds.find((c) => c.role === "internal_standard"));
  const levels = $derived(
    [...new Set(batch.injections.filter((i) => i.role === "standard" && i.level !== null).map((i) => i.level!))].sort((a, b) => a - b),
  );
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
  const above = $derived(fit ? samples.filter((s) => s.x > fit.high_x).length : 0);
  const used = $derived(curve?.points.filter((p) => p.in_range && !p.left_out) ?? []);

  const model = $derived(fit?.model ?? method.curves.own?.[compound?.id ?? ""]?.model ?? method.curves.model);
  const weight = $derived(method.curves.own?.[compound?.id ?? ""]?.weight ?? method.curves.weight);
  const shape = $derived(model.startsWith("linear") ? "linear" : model.startsWith("quadratic") ? "quadratic" : model);
  const origin = $derived(model.endsWith("_origin"));

  type Own = NonNullable<Method["curves"]["own"]>[string];
  function change(c: Compound, own: Partial<Own>, why: string) {
    const before = method.curves.own?.[c.id] ?? {};
    return desk.saveMethod({ ...method, curves: { ...method.curves, own: { ...method.curves.own, [c.id]: { ...before, ...own } } } }, why);
  }
  const setModel = (m: Own["model"]) => compound && change(compound, { model: m }, `${compound.name}: ${m}`);
  function setShape(s: string) {
    if (s === "loglog" || s === "average") setModel(s);
    else setModel((s + (origin ? "_origin" : "")) as Own["model"]);
  }
  async function toggle(id: string) {
    if (!compound || !curve) return;
    const point = curve.points.find((p) => p.injection_id === id);
    if (!point) return;
    const out = method.curves.own?.[compound.id]?.left_out ?? [];
    const at = batch.injections.findIndex((i) => i.id === id);
    const name = `${batch.injections[at]?.name} ${replicate(batch, at)}`;
    const why = await reason.ask(point.left_out ? `Take ${name} back into the curve` : `Leave ${name} out of the curve`, compound.name);
    if (!why) return;
    await change(
      compound,
      {
        left_out: point.left_out ? out.filter((o) => o.injection_id !== id) : [...out, { injection_id: id, reason: why }],
      },
      `${compound.name}: ${name} ${point.left_out ? "back in" : "left out"}, ${why}`,
    );
  }
  function setRange(low: number, high: number) {
    if (!compound) return;
    change(
      compound,
      { low_x: low <= levels[0]! ? undefined : low, high_x: high >= levels.at(-1)! ? undefined : high },
      `${compound.name}: range ${low} to ${high} ${method.curves.unit}`,
    );
  }
  const chooseCompound = (c: Curve) => place.go({ query: { c: c.compound_id } }, false);

  function mini(c: Curve): { line: string; points: { x: number; y: number; used: boolean; out: boolean }[] } {
    const hx = Math.max(1e-9, ...c.points.map((p) => p.level));
    const hy = Math.max(1e-12, ...c.points.map((p) => p.response));
    const X = (v: number) => 2 + (v / hx) * 92;
    const Y = (v: number) => 34 - (v / hy) * 30;
    const inside = c.line.filter((l) => l.x <= hx);
    return {
      line: inside.map((l, i) => `${i ? "L" : "M"}${X(l.x).toFixed(1)} ${Y(l.y).toFixed(1)}`).join(""),
      points: c.points.map((p) => ({
        x: X(p.level),
        y: Y(p.response),
        used: p.in_range && !p.left_out,
        out: p.left_out,
      })),
    };
  }
  const tests = $derived(
    (
      [
        ["Lack of fit", curve?.tests.lack_of_fit],
        ["Quadratic term, Mandel", curve?.tests.mandel],
        ["Equal variance, Levene", curve?.tests.equal_variance],
      ] as const
    ).flatMap(([name, t]) => (t ? [{ name, p: t.p }] : [])),
  );
  const terms = $derived.by(() => {
    if (!fit) return [];
    const names = {
      linear: ["Intercept", "Slope"],
      loglog: ["Intercept, log", "Slope, log"],
      linear_origin: ["Slope"],
      average: ["Mean factor"],
      quadratic: ["b₀", "b₁", "b₂"],
      quadratic_origin: ["b₁", "b₂"],
    }[fit.model];
    return fit.coefficients.map((v, i) => ({ name: names[i] ?? `b${i}`, v, se: fit.standard_errors?.[i] ?? null }));
  });
  $effect(() =>
    keys({
      l: () => (log = !log),
      x: () => hovered && toggle(hovered),
      ...Object.fromEntries(curves.slice(0, 9).map((c, i) => [String(i + 1), () => chooseCompound(c)])),
    }),
  );
</script>

<div class="stage rows">
  <main class="main">
    {#if !result}
      <div class="empty">Processing the batch …</div>
    {:else if !curve || !compound}
      <div class="empty">No compounds yet. Name the peaks of a standard at the Compounds station.</div>
    {:else}
      <div class="tiles" role="tablist" aria-label="Compounds">
        {#each curves as c, i (c.compound_id)}
          {@const m = mini(c)}
          <button role="tab" aria-selected={c === curve} class:on={c === curve} onclick={() => chooseCompound(c)}>
            <span class="tn"
              ><span>{byId.get(c.compound_id)?.name}</span>{#if noticed.has(c.compound_id)}<span class="att"><Mark name="look" /></span
                >{:else if i < 9}<span class="k">{i + 1}</span>{/if}</span
            >
            <svg viewBox="0 0 96 38" width="100%" height="38" preserveAspectRatio="none" aria-hidden="true">
              <path d="M0 35.5H96" stroke="var(--mist-2)" vector-effect="non-scaling-stroke" />
              <path d={m.line} fill="none" stroke="var(--ai)" stroke-width="1" vector-effect="non-scaling-stroke" />
              {#each m.points as p, k (k)}<circle
                  cx={p.x}
                  cy={p.y}
                  r="1.5"
                  fill={p.used ? "var(--ai)" : "var(--paper)"}
                  stroke={p.out ? "var(--kaki)" : p.used ? "none" : "var(--ink)"}
                  stroke-width=".8"
                />{/each}
            </svg>
            <span class="tr">{c.fit ? `${c.fit.low_x} – ${c.fit.high_x} ${method.curves.unit}` : "no curve"}</span>
          </button>
        {/each}
      </div>
      <div class="head">
        <h1>{compound.name}</h1>
        <span class="note"
          >{method.curves.response}{standard ? ` ÷ ${method.curves.response} of ${standard.name}` : ""}, against {method.curves.unit}{stale
            ? " · processing …"
            : ""}</span
        >
        <span class="tools"
          ><Choice
            label="Axis"
            options={[
              ["linear", "linear"],
              ["log", "log"],
            ]}
            value={log ? "log" : "linear"}
            choose={(v) => (log = v === "log")}
          /></span
        >
      </div>
      <div class="body">
        <div class="left">
          {#if curve.points.length === 0}
            <div class="empty">{curve.problem}</div>
          {:else}
            <CurvePlot
              {curve}
              {method}
              {log}
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
          <table>
            <thead
              ><tr
                ><th class="l">Level, {method.curves.unit}</th><th>{standard ? "Ratio" : "Response"}</th><th>Back-calc.</th><th
                  >Deviation</th
                ><th class="l">Use</th></tr
              ></thead
            >
            <tbody>
              {#each curve.points as p, i (p.injection_id)}
                {@const q = fit?.points[i]}
                {@const d = q?.deviation_percent ?? null}
                <tr
                  class:hov={hovered === p.injection_id}
                  onpointerenter={() => (hovered = p.injection_id)}
                  onpointerleave={() => (hovered = null)}
                >
                  <td class="l"
                    ><Glyph role="standard" steps={stairSteps(p.level, levels)} />
                    <a
                      href="?i={p.injection_id}"
                      onclick={(e) => (e.preventDefault(), place.go({ station: "peaks", query: { i: p.injection_id, c: compound.id } }))}
                      title="Open the peak">{p.level}</a
                    ></td
                  >
                  <td class:gone={p.left_out}>{significant(p.response, 4)}</td>
                  <td class:mut={!p.in_range || p.left_out}>{significant(q?.back_calculated, 4)}</td>
                  <td class:att={d !== null && Math.abs(d) > (method.checks.deviation_percent || 20)}
                    >{d === null ? "–" : `${signed(d, 1)} %`}</td
                  >
                  <td class="l"
                    ><button
                      class="use"
                      class:att={p.left_out}
                      onclick={() => toggle(p.injection_id)}
                      title={p.left_out ? `left out: ${p.reason}` : "Leave this point out"}
                      >{p.left_out ? "left out" : p.in_range ? "in" : "outside"}</button
                    ></td
                  >
                </tr>
              {/each}
            </tbody>
          </table>
        </div>
      </div>
    {/if}
  </main>
  <aside class="side">
    {#if curve && compound}
      <section aria-label="Verdict">
        <p class="verdict">
          {#if fit}{curve.verdict.good}{#if curve.verdict.doubt}; <span class="att">{curve.verdict.doubt}</span
              >{:else if curve.verdict.largest_deviation_percent !== null}; every level within {fixed(
                Math.abs(curve.verdict.largest_deviation_percent),
                1,
              )} %{/if}.{:else}<span class="att">{curve.problem}</span>{/if}
        </p>
      </section>
      <section aria-label="Model">
        <h2>Model</h2>
        <div class="set">
          <span>Shape</span><Choice
            label="Shape"
            options={[
              ["linear", "linear"],
              ["quadratic", "quadratic"],
              ["loglog", "log"],
              ["average", "mean"],
            ]}
            value={shape}
            choose={setShape}
          />
        </div>
        {#if shape === "linear" || shape === "quadratic"}
          <div class="set">
            <span>Through zero</span><Choice
              label="Through zero"
              options={[
                ["no", "no"],
                ["yes", "yes"],
              ]}
              value={origin ? "yes" : "no"}
              choose={(v) => setModel((shape + (v === "yes" ? "_origin" : "")) as Own["model"])}
            />
          </div>
        {/if}
        {#if shape !== "average"}
          <div class="set">
            <span>Weight</span><Choice
              label="Weight"
              options={[
                ["none", "none"],
                ["1/x", "1/x"],
                ["1/x2", "1/x²"],
                ["1/y", "1/y"],
                ["1/y2", "1/y²"],
              ]}
              value={weight}
              choose={(w) => change(compound, { weight: w }, `${compound.name}: weight ${w}`)}
            />
          </div>
        {/if}
      </section>
      {#if fit}
        <section aria-label="Statistics">
          <h2>
            Statistics <span class="r">{used.length} points, {new Set(used.map((p) => p.level)).size} levels</span>
          </h2>
          <dl>
            {#each terms as t (t.name)}<dt>{t.name}</dt>
              <dd>{significant(t.v, 4)}{t.se === null ? "" : ` ± ${significant(t.se, 2)}`}</dd>{/each}
            <dt>R²{fit.r2_uncentred ? ", uncentred" : ""}</dt>
            <dd>{rSquared(fit.r2)}</dd>
            <dt>Residual SD{fit.weight === "none" ? "" : ", weighted"}</dt>
            <dd>{significant(fit.residual_sd, 3)}</dd>
            <dt>Degrees of freedom</dt>
            <dd>{fit.degrees_of_freedom}</dd>
            {#each tests as t (t.name)}<dt>{t.name}</dt>
              <dd class:cau={t.p < 0.05}>{t.p < 0.0001 ? "p < 0.0001" : `p = ${significant(t.p, 2)}`}</dd>{/each}
            {#if curve.lod !== null}<dt>LOD, 3.3 SE of the intercept</dt>
              <dd>{significant(curve.lod, 2)} {method.curves.unit}</dd>{/if}
            <dt>LOQ, lowest level in use</dt>
            <dd>{curve.loq} {method.curves.unit}</dd>
          </dl>
          <p class="note">
            {samples.length} sample injections read from it{above ? `, ${above} above its range` : ", all inside or below its range"}. R²
            alone does not show that a curve is straight: look at the deviations.
          </p>
        </section>
      {/if}
    {/if}
    <Notices {batch} {result} station="curves" />
  </aside>
  <Foot
    hints={[
      ["1 – 9", "compound"],
      ["X", "leave the pointed one out, asks why"],
      ["L", "linear or log axis"],
      ["J", ""],
      ["K", "sample shown on the curve"],
    ]}>{batch.version.name}, version {batch.version.number}: {batch.version.reason}</Foot
  >
</div>

<style>
  .rows {
    grid-template-rows: minmax(0, 1fr) 24px;
  }
  .tiles {
    display: grid;
    grid-auto-flow: column;
    grid-auto-columns: minmax(104px, 1fr);
    margin: 0 12px 0 16px;
    border-bottom: 1px solid var(--mist-1);
    overflow-x: auto;
    flex: none;
  }
  .tiles button {
    padding: 8px 8px 7px;
    text-align: left;
    border-right: 1px solid var(--mist-1);
    outline-offset: -2px;
  }
  .tiles button.on {
    background: var(--paper-2);
    box-shadow: inset 0 -2px 0 var(--kaki);
  }
  .tn {
    display: flex;
    justify-content: space-between;
    gap: 4px;
    white-space: nowrap;
    overflow: hidden;
  }
  .tn span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .on .tn {
    font-weight: 600;
  }
  .k {
    font-size: 11px;
    color: var(--ink-3);
    font-weight: 400;
  }
  .tr {
    font-size: 12px;
    color: var(--ink-2);
  }
  .body {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: minmax(0, 1fr) 372px;
    gap: 8px;
  }
  .left {
    min-height: 0;
    min-width: 0;
  }
  .right {
    overflow: auto;
    padding-right: 12px;
    min-height: 0;
  }
  .gone {
    text-decoration: line-through;
    color: var(--ink-3);
  }
  .use {
    color: var(--ink-2);
  }
  .use:hover {
    text-decoration: underline;
  }
  .verdict {
    font: 400 17px/1.35 var(--f-read);
  }
  .set {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    min-height: 29px;
    font-size: 12.5px;
  }
  .set :global(.choice-item) {
    padding-left: 6px;
    padding-right: 6px;
  }
  dl {
    display: grid;
    grid-template-columns: 1fr auto;
    font-size: 12.5px;
    line-height: 21px;
  }
  dt,
  dd {
    border-bottom: 1px solid var(--mist-1);
  }
  dd {
    text-align: right;
  }
  section .note {
    margin-top: 6px;
  }
</style>
