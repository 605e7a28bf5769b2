<script lang="ts">
  // The numbers behind a curve, its tests with their p, its limits, and the widest range over which it holds.
  import type { Curve, Method } from "../../api/client";
  import { count, rSquared, signed, significant } from "../../look/number";
  import { termNames, wayWords } from "./calibration";

  let {
    curve,
    method,
    read,
    useRange,
  }: {
    curve: Curve;
    method: Method;
    /** What stands in the last sentence: how many samples are read from it. */
    read: string;
    useRange: (low: number, high: number) => void;
  } = $props();

  const fit = $derived(curve.fit!);
  const used = $derived(curve.points.filter((p) => p.in_range && !p.left_out));
  const levels = $derived(new Set(used.map((q) => q.level)).size);
  const unit = $derived(method.curves.unit);
  const terms = $derived(
    fit.coefficients.map((v, i) => ({ name: termNames[fit.model]?.[i] ?? `b${i}`, v, se: fit.standard_errors?.[i] ?? null })),
  );
  const tests = $derived(
    (
      [
        ["Lack of fit", curve.tests.lack_of_fit],
        ["Quadratic term, Mandel", curve.tests.mandel],
        ["Equal variance, Levene", curve.tests.equal_variance],
        ["Largest variance, Cochran", curve.tests.cochran],
      ] as const
    )
      // Unequal variance is what weights are for: with them it is a fact, without them a doubt.
      .flatMap(([name, t], k) => (t ? [{ name, p: t.p, doubt: t.p < 0.05 && (k < 2 || fit.weight === "none") }] : [])),
  );
  const outlier = $derived(curve.tests.outliers.filter((o) => o.p < 0.05).sort((a, b) => a.p - b.p)[0]);
  const furthest = $derived(
    fit.points.filter((p) => p.outlier_p !== null && !p.out).sort((a, b) => (a.outlier_p ?? 1) - (b.outlier_p ?? 1))[0],
  );
  const p = (v: number) => (v < 0.0001 ? "p < 0.0001" : `p = ${significant(v, 2)}`);
  const chosen = $derived(method.curves.own?.[curve.compound_id]?.limits);
  const range = $derived(curve.range);
  const same = $derived(range && range.low_x === fit.low_x && range.high_x === fit.high_x);
</script>

<section aria-label="Statistics">
  <h2>Statistics <span class="r">{count(used.length, "point")}, {count(levels, "level")}</span></h2>
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
      <dd class:cau={t.doubt}>{p(t.p)}</dd>{/each}
    {#if furthest}<dt>Furthest point, {significant(furthest.x, 3)} {unit}</dt>
      <dd class:cau={furthest.outlier_p! < 0.05}>{p(furthest.outlier_p!)}</dd>{/if}
    {#if outlier}<dt>Outlier at {outlier.x} {unit}, Grubbs</dt>
      <dd class="cau">{p(outlier.p)}</dd>{/if}
    {#if curve.lod !== null}<dt>LOD, {chosen ? `chosen: ${wayWords[chosen.way as "blanks"] ?? chosen.way}` : "3.3 SE of the intercept"}</dt>
      <dd>{significant(curve.lod, 2)} {unit}</dd>{/if}
    {#if curve.loq !== null}<dt>LOQ, {chosen ? "chosen" : "lowest level in use"}</dt>
      <dd>{significant(curve.loq, 3)} {unit}</dd>{/if}
  </dl>
  {#if fit.model !== "one_point"}
    <p class="note">
      {#if !range}No run of five levels holds the limit of {method.checks.deviation_percent || 20} % without lack of fit.
      {:else if same}The range in use is the widest that holds{range.breaks.length ? "" : ": every level"}.
      {:else}The widest range that holds is {range.low_x} – {range.high_x}
        {unit}, {count(range.levels, "level")}{#if range.breaks.length};
          {range.breaks
            .map((b) => `${b.x} would read ${b.deviation_percent === null ? "nothing" : `${signed(b.deviation_percent, 1)} %`}`)
            .join(", ")}{/if}.
        <button class="lnk" onclick={() => useRange(range.low_x, range.high_x)} title="Takes this range into the method">Use it</button
        >{/if}
    </p>
  {/if}
  <p class="note">{read} R² alone does not show that a curve is straight: look at the deviations.</p>
</section>

<style>
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
  .note {
    margin-top: 6px;
  }
</style>
