<script lang="ts">
  // All checks with their numbers, passed or not, and the limits behind them.
  import type { Batch, Method, Result } from "../../api/client";
  import Columns from "../../parts/Columns.svelte";
  import { missing, significant } from "../../look/number";
  import { replicate } from "../../state/desk.svelte";
  import { place } from "../../state/place.svelte";

  let { batch, result, save }: { batch: Batch; result: Result; save: (checks: Method["checks"], what: string) => void } = $props();

  type Checks = Method["checks"];
  type Measure = NonNullable<Checks["suitability"]>[number]["measure"];
  const method = $derived(batch.version.method);
  const checks = $derived(method.checks);
  const names = $derived(new Map(method.compounds.map((c) => [c.id, c.name])));
  const outcomes = $derived(result.outcomes.toSorted((a, b) => Number(b.outside > 0) - Number(a.outside > 0)));
  const failed = $derived(result.outcomes.filter((o) => o.outside > 0).length);
  const name = (id: string | undefined) => {
    const k = batch.injections.findIndex((i) => i.id === id);
    return k < 0 ? "" : `${batch.injections[k]!.name} ${replicate(batch, k)}`;
  };
  const limit = (o: { low: number | null; high: number | null }) =>
    o.low !== null && o.high !== null
      ? `${o.low} – ${o.high}`.replaceAll("-", "−")
      : o.low !== null
        ? `≥ ${o.low}`
        : o.high !== null
          ? `≤ ${o.high}`
          : missing;
  const fields: [key: keyof Checks & string, word: string][] = [
    ["recovery_low_percent", "Recovery of checks from, %"],
    ["recovery_high_percent", "to, %"],
    ["internal_standard_percent", "Internal standard within ±, %"],
    ["blank_percent", "Blanks below, % of the lowest level"],
    ["replicate_rsd_percent", "RSD of replicates up to, %"],
    ["deviation_percent", "Deviation of a level up to, %"],
  ];
  const measures: [Measure, string][] = [
    ["tailing", "tailing"],
    ["plates", "plates"],
    ["resolution", "resolution"],
    ["signal_to_noise", "signal-to-noise"],
    ["area_rsd", "RSD of the area, %"],
    ["retention_rsd", "RSD of retention, %"],
  ];
  const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));
  const suitability = $derived(checks.suitability ?? []);
  let measure = $state<Measure>("tailing");
  let compound = $state("");
  let from = $state("");
  let to = $state("");
  function add() {
    const low = number(from);
    const high = number(to);
    if (low === null && high === null) return;
    const fresh = {
      measure,
      ...(compound ? { compound_id: compound } : {}),
      ...(low === null ? {} : { low }),
      ...(high === null ? {} : { high }),
    };
    save(
      { ...checks, suitability: [...suitability, fresh] },
      `suitability: ${measures.find(([m]) => m === measure)![1]} ${limit({ low, high })}`,
    );
    from = to = "";
  }
</script>

<div class="roll" role="region" aria-label="Checks">
  <p class="lede">
    {failed === 0
      ? `All ${result.outcomes.length} checks pass.`
      : `${failed} of ${result.outcomes.length} checks are outside their limits.`}
  </p>
  <div class="two">
    <div class="list">
      <Columns stay={2} class="flush"
        ><table>
          <thead
            ><tr
              ><th class="l">Check</th><th class="l">Compound</th><th>Worst</th><th>Limit</th><th>Outside</th><th class="l"
                >Where it is worst</th
              ></tr
            ></thead
          >
          <tbody>
            {#each outcomes as o (o.kind + o.measure + o.compound_id)}
              <tr class:fail={o.outside > 0}>
                <td class="l">{o.measure}</td>
                <td class="l">{names.get(o.compound_id ?? "") ?? missing}</td>
                <td class:att={o.outside > 0}>{significant(o.value, 3)} {o.unit}</td>
                <td>{limit(o)}</td>
                <td class:att={o.outside > 0}>{o.outside} of {o.count}</td>
                <td class="l"
                  >{#if name(o.injection_id)}<button
                      class="lnk"
                      title="Opens the peak where it is worst"
                      onclick={() => place.go({ station: "peaks", query: { i: o.injection_id, c: o.compound_id } })}
                      >{name(o.injection_id)}</button
                    >{/if}</td
                >
              </tr>
            {:else}<tr><td class="l mut" colspan="6">Nothing to judge yet.</td></tr>{/each}
          </tbody>
        </table></Columns
      >
    </div>
    <div class="limits">
      <h2>Limits of the method</h2>
      {#each fields as [key, word] (key)}
        <label title="Outside of it a check fails and is a notice; empty asks nothing"
          ><span>{word}</span><input
            class="field"
            value={checks[key] || ""}
            placeholder="not asked"
            onchange={(e) =>
              save({ ...checks, [key]: number(e.currentTarget.value) ?? 0 }, `${word} ${e.currentTarget.value || "not asked"}`)}
          /></label
        >
      {/each}
      <h2>Suitability</h2>
      {#each suitability as s, k (k)}
        <p class="suit">
          <span>{measures.find(([m]) => m === s.measure)?.[1]}{s.compound_id ? ` of ${names.get(s.compound_id)}` : ""}</span>
          <span>{limit({ low: s.low ?? null, high: s.high ?? null })}</span>
          <button
            class="mut"
            aria-label="Take the limit on {s.measure} away"
            onclick={() => save({ ...checks, suitability: suitability.filter((_, i) => i !== k) }, `no limit on ${s.measure}`)}>×</button
          >
        </p>
      {:else}<p class="note">None asked. They hold for injections with the role suitability.</p>{/each}
      <p class="fresh">
        <select class="field" aria-label="Measure" bind:value={measure}>
          {#each measures as [m, word] (m)}<option value={m}>{word}</option>{/each}
        </select>
        <select class="field" aria-label="Of the compound" bind:value={compound}>
          <option value="">of each</option>
          {#each method.compounds as c (c.id)}<option value={c.id}>of {c.name}</option>{/each}
        </select>
        <input class="field" aria-label="At least" placeholder="at least" bind:value={from} />
        <input class="field" aria-label="At most" placeholder="at most" bind:value={to} />
        <button class="btn" title="Adds the limit to the method" onclick={add} disabled={from.trim() === "" && to.trim() === ""}>Add</button
        >
      </p>
    </div>
  </div>
</div>

<style>
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 290px;
    gap: 24px;
    align-items: start;
  }
  .list {
    min-width: 0;
  }
  @container main (max-width: 760px) {
    .two {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  td,
  th {
    padding: 0 6px;
  }
  td:last-child {
    max-width: 124px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  tr.fail td:first-child {
    box-shadow: inset 3px 0 0 var(--kaki);
  }
  .limits label,
  .suit {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 6px;
    font-size: 12.5px;
    min-height: 26px;
  }
  .limits label .field {
    width: 74px;
    text-align: right;
  }
  .limits h2 {
    padding: 2px 0 4px;
  }
  .fresh {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 4px 8px;
    padding-top: 4px;
  }
  .fresh .field {
    font-size: 12.5px;
    padding: 0 2px;
  }
</style>
