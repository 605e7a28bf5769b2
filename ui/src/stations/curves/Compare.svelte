<script lang="ts">
  // This curve beside another: another shape or weight, or the curve of an earlier version; with what it would do to the samples.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Compound, Curve, Method } from "../../api/client";
  import { rSquared, signed, significant } from "../../look/number";
  import { ask } from "../../state/ask";
  import { modelWords, weightWords, type Own } from "./calibration";

  let {
    batch,
    method,
    compound,
    curve,
    other = $bindable(null),
    take,
  }: {
    batch: Batch;
    method: Method;
    compound: Compound;
    curve: Curve;
    /** The curve that is compared, for drawing; null when none is. */
    other: Curve | null;
    take: (own: Partial<Own>, why: string) => void;
  } = $props();

  let model = $state("");
  let weight = $state("");
  let version = $state("");
  const on = $derived(model !== "" || weight !== "" || version !== "");
  const versions = createQuery(() => ask.versions(batch.id, batch.revision));
  const own = $derived<Own>(method.curves.own?.[compound.id] ?? {});
  const wanted = $derived<Own>({
    ...own,
    model: (model || own.model || method.curves.model) as Own["model"],
    weight: (weight || own.weight || method.curves.weight) as Own["weight"],
  });
  const tried = createQuery(() => ({
    ...ask.tryCurve(
      batch.id,
      batch.revision,
      version ? { compound_id: compound.id, own: null, version_id: version } : { compound_id: compound.id, own: wanted },
    ),
    enabled: on,
  }));
  $effect(() => {
    other = on ? (tried.data?.curve ?? null) : null;
  });
  $effect(() => {
    void compound.id;
    return () => (model = weight = version = "");
  });
  const theirs = $derived(tried.data?.curve.fit);
  const moved = $derived(
    (tried.data?.effects ?? []).filter((e) => e.percent !== null).sort((a, b) => Math.abs(b.percent!) - Math.abs(a.percent!)),
  );
  const largest = (c: Curve | undefined) => c?.verdict.largest_deviation_percent ?? null;
</script>

<section aria-label="Compare">
  <h2>
    Compare <span class="r"
      >{#if on}<button class="lnk" onclick={() => (model = weight = version = "")} title="Ends the comparison">only this one</button
        >{/if}</span
    >
  </h2>
  <div class="pick">
    <select
      class="field"
      aria-label="Compare with the shape"
      title="Draws another shape beside this one; nothing is kept"
      bind:value={model}
      onchange={() => (version = "")}
    >
      <option value="">same shape</option>
      {#each Object.entries(modelWords) as [m, word] (m)}<option value={m}>{word}</option>{/each}
    </select>
    <select
      class="field"
      aria-label="Compare with the weight"
      title="Draws another weight beside this one; nothing is kept"
      bind:value={weight}
      onchange={() => (version = "")}
    >
      <option value="">same weight</option>
      {#each Object.entries(weightWords) as [w, word] (w)}<option value={w}>weight {word}</option>{/each}
    </select>
  </div>
  <div class="pick">
    <select
      class="field wide"
      aria-label="Compare with an earlier version"
      title="Draws the curve of an earlier version beside this one"
      bind:value={version}
      onchange={() => (model = weight = "")}
    >
      <option value="">or with an earlier version</option>
      {#each (versions.data ?? []).filter((v) => v.number < batch.version.number) as v (v.id)}<option value={v.id}
          >version {v.number}: {v.reason}</option
        >{/each}
    </select>
  </div>
  {#if on && tried.isError}<p class="att" role="alert">{tried.error.message}</p>
  {:else if on && !tried.data}<p class="note">Fitting …</p>
  {:else if on && theirs && curve.fit}
    <table>
      <thead><tr><th class="l"></th><th>this</th><th>other</th></tr></thead>
      <tbody>
        <tr><td class="l">Shape</td><td>{modelWords[curve.fit.model]}</td><td>{modelWords[theirs.model]}</td></tr>
        <tr><td class="l">Weight</td><td>{weightWords[curve.fit.weight]}</td><td>{weightWords[theirs.weight]}</td></tr>
        <tr><td class="l">R²</td><td>{rSquared(curve.fit.r2)}</td><td>{rSquared(theirs.r2)}</td></tr>
        <tr><td class="l">Residual SD</td><td>{significant(curve.fit.residual_sd, 3)}</td><td>{significant(theirs.residual_sd, 3)}</td></tr>
        <tr><td class="l">Largest deviation, %</td><td>{signed(largest(curve), 1)}</td><td>{signed(largest(tried.data?.curve), 1)}</td></tr>
      </tbody>
    </table>
    <p class="note">What it would do to the samples:</p>
    <table aria-label="Effect on the samples">
      <tbody>
        {#each moved.slice(0, 6) as e (e.name)}
          <tr
            ><td class="l">{e.name}</td><td>{significant(e.before, 3)}</td><td>{significant(e.after, 3)}</td><td
              >{signed(e.percent, 1)} %</td
            ></tr
          >
        {:else}<tr><td class="l mut">nothing is read from it yet</td></tr>{/each}
      </tbody>
    </table>
    {#if moved.length > 6}<p class="note">And {moved.length - 6} that move less.</p>{/if}
    <p class="acts">
      <button
        class="btn"
        onclick={() =>
          take(
            version ? { model: theirs.model, weight: theirs.weight } : { model: wanted.model, weight: wanted.weight },
            `${compound.name}: ${modelWords[theirs.model]}, weight ${weightWords[theirs.weight]}`,
          )}>Take the other</button
      >
    </p>
  {:else if on}<p class="att">{tried.data?.curve.problem}</p>{/if}
</section>

<style>
  .pick {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px;
  }
  .wide {
    grid-column: 1 / 3;
  }
  select {
    font-size: 12.5px;
    padding: 0;
  }
  table {
    margin-top: 4px;
  }
  td {
    padding: 0 4px;
  }
  .acts {
    padding-top: 7px;
  }
</style>
