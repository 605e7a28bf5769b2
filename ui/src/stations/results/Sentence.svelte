<script lang="ts">
  // The sentence of the amount: quantities in order, each with its unit, the sample's own number, where it comes from, how uncertain it is and which
  // share of the doubt is its own.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Injection, Method } from "../../api/client";
  import { missing, significant } from "../../look/number";
  import { ask } from "../../state/ask";
  import { place } from "../../state/place.svelte";
  import { draft } from "./draft.svelte";

  type Amounts = Method["amounts"];
  let {
    batch,
    method,
    sample,
    injection,
    compound,
    set,
  }: {
    batch: Batch;
    method: Method;
    sample: Injection | undefined;
    injection: string;
    compound: string;
    set: (change: Partial<Amounts>, what: string) => void;
  } = $props();
  const amounts = $derived(method.amounts);
  const trial = createQuery(() => ask.tryMethod(batch.id, batch.revision, { method, injection_id: injection, compound_id: compound }));
  const prepared = $derived(!amounts.as_measured && !amounts.percent_of_total);
  const shares = $derived.by(() => {
    const total = (trial.data?.terms ?? []).reduce((a, t) => a + t.percent ** 2, 0) || 1;
    return new Map((trial.data?.terms ?? []).map((t) => [t.name, t.percent ** 2 / total]));
  });
  type Part = {
    head: string;
    sign: string;
    unit?: { value: string; hint: string; set: (v: string) => void };
    value: string;
    from: [word: string, station: "curves" | "batch" | ""];
    doubt?: { key: "volume_percent" | "sample_percent" | "dilution_percent"; term: string };
    term?: string;
  };
  const text = (v: number | null | undefined) => (v === null || v === undefined ? missing : String(v));
  const parts = $derived.by<Part[]>(() => {
    const list: Part[] = [
      {
        head: method.curves.way === "standard_addition" ? "by standard addition" : "from the curve",
        sign: "",
        unit: {
          value: method.curves.unit,
          hint: "mg/L, µg/mL …",
          set: (unit) => draft.change(batch, { curves: { ...method.curves, unit } }, `levels: in ${unit}`),
        },
        value: significant(trial.data?.concentration ?? null, 4),
        from: ["Curves", "curves"],
        term: "reading from the curve",
      },
    ];
    if (!prepared) return list;
    return [
      ...list,
      {
        head: "dilution",
        sign: "×",
        value: text(sample?.dilution),
        from: ["run list", "batch"],
        doubt: { key: "dilution_percent", term: "dilution" },
        term: "dilution",
      },
      {
        head: "extract made up to",
        sign: "×",
        unit: { value: amounts.volume_unit, hint: "mL, L, µL", set: (volume_unit) => set({ volume_unit }, `extracts: in ${volume_unit}`) },
        value: text(sample?.volume),
        from: ["run list", "batch"],
        doubt: { key: "volume_percent", term: "volume" },
        term: "volume",
      },
      {
        head: "sample taken",
        sign: "÷",
        unit: { value: amounts.sample_unit, hint: "g, mg, mL", set: (sample_unit) => set({ sample_unit }, `samples: in ${sample_unit}`) },
        value: text(sample?.sample),
        from: ["run list", "batch"],
        doubt: { key: "sample_percent", term: "weighing" },
        term: "weighing",
      },
      { head: "factor", sign: "×", value: text(sample?.factor), from: ["run list", "batch"] },
    ];
  });
  const common = $derived(amounts.common_terms ?? []);
  function setCommon(term: string, is: boolean) {
    const list = is ? [...common, term] : common.filter((t) => t !== term);
    set({ common_terms: list.length ? list : undefined }, `${term}: ${is ? "common to all preparations" : "of each preparation"}`);
  }
  function percent(raw: string): number | undefined {
    const v = Number(raw.replace(",", "."));
    return Number.isFinite(v) && v > 0 ? v : undefined;
  }
  const value = $derived(trial.data?.problem ? null : (trial.data?.amount ?? null));
</script>

<div class="cap">
  <h2>How it comes about</h2>
  <span class="note" class:att={trial.data?.problem}
    >{trial.data?.problem || (trial.isError ? trial.error.message : "units are converted, never only printed")}</span
  >
</div>
<div class="wrap">
  <table>
    <thead>
      <tr
        ><th class="l"></th>{#each parts as p (p.head)}{#if p.sign}<th class="sign">{p.sign}</th>{/if}<th>{p.head}</th>{/each}<th
          class="sign">=</th
        ><th>reported</th></tr
      >
    </thead>
    <tbody>
      <tr>
        <td class="l mut">unit</td>
        {#each parts as p (p.head)}
          {#if p.sign}<td></td>{/if}
          <td
            >{#if p.unit}<input
                class="field unit"
                aria-label="Unit of {p.head}"
                value={p.unit.value}
                placeholder={p.unit.hint}
                onchange={(e) => e.currentTarget.value.trim() && p.unit!.set(e.currentTarget.value.trim())}
              />{:else}<span class="mut">times</span>{/if}</td
          >
        {/each}
        <td></td>
        <td
          >{#if prepared}<input
              class="field unit"
              aria-label="Unit of what is reported"
              value={amounts.unit}
              placeholder="mg/g, mg/L …"
              onchange={(e) =>
                e.currentTarget.value.trim() && set({ unit: e.currentTarget.value.trim() }, `reported: in ${e.currentTarget.value.trim()}`)}
            />{:else}{trial.data?.unit ?? ""}{/if}</td
        >
      </tr>
      <tr class="big">
        <td class="l">{sample?.name ?? "no sample"}</td>
        {#each parts as p (p.head)}
          {#if p.sign}<td class="sign">{p.sign}</td>{/if}
          <td>{p.value}</td>
        {/each}
        <td class="sign">=</td><td>{value === null ? missing : significant(value, 3)}</td>
      </tr>
      <tr>
        <td class="l mut">from</td>
        {#each parts as p (p.head)}
          {#if p.sign}<td></td>{/if}
          <td
            >{#if p.from[1]}<button
                class="lnk"
                title="Opens where it comes from"
                onclick={() => place.go({ station: p.from[1] as "curves", query: { i: injection, c: compound } })}>{p.from[0]}</button
              >{/if}</td
          >
        {/each}
        <td></td><td class="mut">Results</td>
      </tr>
      <tr>
        <td class="l mut">uncertain by, %</td>
        {#each parts as p (p.head)}
          {#if p.sign}<td></td>{/if}
          <td
            >{#if p.doubt}<input
                class="field doubt"
                aria-label="Uncertainty of {p.doubt.term}, %"
                value={amounts[p.doubt.key] ?? ""}
                placeholder={missing}
                onchange={(e) =>
                  set(
                    { [p.doubt!.key]: percent(e.currentTarget.value) },
                    `uncertainty of ${p.doubt!.term}: ${e.currentTarget.value || "none"} %`,
                  )}
              />{#if amounts[p.doubt.key]}<label
                  class="chk"
                  title="One flask or balance error for all preparations of a sample does not average out over them"
                  ><input
                    type="checkbox"
                    checked={common.includes(p.doubt.term)}
                    onchange={(e) => setCommon(p.doubt!.term, e.currentTarget.checked)}
                  />common</label
                >{/if}{:else if p.term}by the curve{/if}</td
          >
        {/each}
        <td></td><td>{trial.data?.uncertainty_percent ? `${significant(trial.data.uncertainty_percent, 2)} in all` : missing}</td>
      </tr>
      <tr class="shares">
        <td class="l mut">share of the doubt</td>
        {#each parts as p (p.head)}
          {#if p.sign}<td></td>{/if}
          <td
            >{#if p.term && shares.has(p.term)}<span class="bar" title="{(100 * shares.get(p.term)!).toFixed(0)} % of the variance"
                ><i style:width="{100 * shares.get(p.term)!}%"></i></span
              >{/if}</td
          >
        {/each}
        <td></td><td></td>
      </tr>
    </tbody>
  </table>
</div>
<p class="also">
  <label class="chk" title="The mean content of the blanks of this batch comes off every sample"
    ><input
      type="checkbox"
      checked={amounts.take_off_blank ?? false}
      disabled={amounts.percent_of_total}
      onchange={(e) =>
        set({ take_off_blank: e.currentTarget.checked || undefined }, `blank: ${e.currentTarget.checked ? "taken off" : "not taken off"}`)}
    />take the mean of the blanks off first</label
  >
  <label class="chk" title="Peak heights in place of areas, for standards and samples alike"
    ><input
      type="checkbox"
      checked={method.curves.response === "height"}
      onchange={(e) => {
        const response = e.currentTarget.checked ? "height" : "area";
        draft.change(batch, { curves: { ...method.curves, response } }, `response: by ${response}`);
      }}
    />by height instead of area</label
  >
  <span class="note">The same sentence holds for every sample; an empty cell of the run list stops its amount and is a notice.</span>
</p>

<style>
  .cap {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 20px;
  }
  .wrap {
    overflow-x: auto;
  }
  th,
  td {
    text-align: center;
    padding: 0 4px;
  }
  th {
    color: var(--ink-2);
    font-size: 12.5px;
  }
  td.l {
    text-align: left;
    max-width: 128px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .sign {
    color: var(--ink-2);
    width: 22px;
  }
  tr.big td {
    font-size: 14px;
    font-weight: 500;
    height: 25px;
  }
  tr.big td.l {
    font-weight: 400;
    font-size: 12.5px;
  }
  td {
    border-bottom: 0;
  }
  tr.shares td {
    border-bottom: 1px solid var(--mist-2);
    height: 17px;
  }
  .unit {
    width: 78px;
    text-align: center;
    height: 20px;
    line-height: 19px;
    font-size: 12.5px;
  }
  .doubt {
    width: 44px;
    text-align: center;
    height: 24px;
    font-size: 12.5px;
  }
  .chk {
    font-size: 12px;
  }
  .also .chk {
    white-space: nowrap;
  }
  td .chk {
    margin-left: 5px;
  }
  .bar {
    display: inline-block;
    width: 76px;
    border-bottom: 1px solid var(--mist-2);
    height: 4px;
    text-align: left;
  }
  .bar i {
    display: block;
    height: 3px;
    background: var(--ink);
  }
  .also {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 18px;
    align-items: baseline;
    padding: 6px 0 14px;
  }
</style>
