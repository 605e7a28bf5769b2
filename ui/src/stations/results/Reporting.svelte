<script lang="ts">
  // In which unit amounts are reported, from which units, and what the preparation adds to their uncertainty.
  import type { Batch, Method } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";

  let { batch, save }: { batch: Batch; save: (change: Partial<Method>, what: string) => void } = $props();
  const method = $derived(batch.version.method);
  const amounts = $derived(method.amounts);
  const setAmounts = (change: Partial<Method["amounts"]>, what: string) => save({ amounts: { ...amounts, ...change } }, what);
  const units: [key: "unit" | "volume_unit" | "sample_unit", word: string, hint: string][] = [
    ["unit", "Reported in", "mg/g, µg/kg, % (m/m) …"],
    ["volume_unit", "Extracts measured in", "mL, L, µL"],
    ["sample_unit", "Samples weighed or measured in", "g, mg, mL"],
  ];
  const terms: [key: "volume_percent" | "sample_percent" | "dilution_percent", word: string, term: string][] = [
    ["volume_percent", "Volume, %", "volume"],
    ["sample_percent", "Weighing, %", "weighing"],
    ["dilution_percent", "Dilution, %", "dilution"],
  ];
  const common = $derived(amounts.common_terms ?? []);
  const setCommon = (term: string, is: boolean) => {
    const list = is ? [...common, term] : common.filter((t) => t !== term);
    setAmounts({ common_terms: list.length ? list : undefined }, `${term} ${is ? "common to all preparations" : "of each preparation"}`);
  };
  const number = (text: string) => {
    const v = Number(text.replace(",", "."));
    return Number.isFinite(v) && v > 0 ? v : undefined;
  };
</script>

<div class="roll" role="region" aria-label="Amounts">
  <div class="two">
    <section>
      <h2>What is reported</h2>
      <div class="set">
        <span>Amounts as</span><Choice
          label="Amounts as"
          options={[
            ["content", "content of the sample"],
            ["share", "percent of the total"],
          ]}
          value={amounts.percent_of_total ? "share" : "content"}
          choose={(v) =>
            setAmounts({ percent_of_total: v === "share" || undefined }, v === "share" ? "percent of the total" : "content of the sample")}
        />
      </div>
      {#each units as [key, word, hint] (key)}
        <label class="set"
          ><span>{word}</span><input
            class="field"
            value={amounts[key]}
            placeholder={hint}
            onchange={(e) =>
              e.currentTarget.value.trim() &&
              setAmounts({ [key]: e.currentTarget.value.trim() }, `${word} ${e.currentTarget.value.trim()}`)}
          /></label
        >
      {/each}
      <label class="set"
        ><span>Levels of standards in</span><input
          class="field"
          value={method.curves.unit}
          onchange={(e) =>
            e.currentTarget.value.trim() &&
            save({ curves: { ...method.curves, unit: e.currentTarget.value.trim() } }, `levels in ${e.currentTarget.value.trim()}`)}
        /></label
      >
      <div class="set">
        <span>Response</span><Choice
          label="Response"
          options={[
            ["area", "area"],
            ["height", "height"],
          ]}
          value={method.curves.response as "area" | "height"}
          choose={(response) => save({ curves: { ...method.curves, response } }, `response by ${response}`)}
        />
      </div>
      <p class="note">
        Concentration × dilution × volume ÷ sample × factor, in real units: what cannot be converted is refused with a sentence.
      </p>
    </section>
    <section>
      <h2>Relative standard uncertainty of the preparation</h2>
      {#each terms as [key, word, term] (key)}
        <label class="set"
          ><span>{word}</span><input
            class="field"
            value={amounts[key] ?? ""}
            placeholder="none"
            onchange={(e) =>
              setAmounts({ [key]: number(e.currentTarget.value) }, `uncertainty of ${word} ${e.currentTarget.value || "none"}`)}
          /></label
        >
        {#if amounts[key]}
          <label class="chk common" title="One flask or balance error for all preparations of a sample does not average out over them"
            ><input type="checkbox" checked={common.includes(term)} onchange={(e) => setCommon(term, e.currentTarget.checked)} />common to
            all preparations</label
          >
        {/if}
      {/each}
      <p class="note">
        With the reading from the curve they make the standard uncertainty of each amount, as the root of their squares. Every working shows
        them term by term. Over replicates, repeatability and what each preparation has for itself average out; the curve and what is common
        do not. Injections of one vial are one preparation, unless the run list says otherwise.
      </p>
    </section>
  </div>
</div>

<style>
  .common {
    justify-content: flex-end;
    font-size: 12.5px;
    color: var(--ink-2);
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 36px;
    max-width: 860px;
  }
  .set {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 8px;
    min-height: 30px;
    font-size: 12.5px;
  }
  .set .field {
    width: 120px;
    text-align: right;
  }
  h2 {
    padding-bottom: 6px;
  }
</style>
