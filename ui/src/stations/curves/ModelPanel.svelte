<script lang="ts">
  // The shape of one compound's curve and its weight; and for all compounds, how replicates, brackets and additions are used.
  import type { Compound, Curve, Method } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";
  import { weightWords, type Own } from "./calibration";
  import { above0 } from "../../state/held";

  let {
    compound,
    curve,
    method,
    change,
    changeAll,
  }: {
    compound: Compound;
    curve: Curve;
    method: Method;
    change: (own: Partial<Own>, why: string) => void;
    changeAll: (curves: Partial<Method["curves"]>, what: string) => void;
  } = $props();

  let more = $state(false);
  const own = $derived(method.curves.own?.[compound.id]);
  const model = $derived(own?.model || method.curves.model);
  const weight = $derived(own?.weight || method.curves.weight);
  const shape = $derived(model.startsWith("linear") ? "linear" : model.startsWith("quadratic") ? "quadratic" : model);
  const origin = $derived(model.endsWith("_origin"));
  const through = $derived(shape === "linear" || shape === "quadratic");
  const setModel = (m: string) => change({ model: m as Own["model"] }, `${compound.name}: ${m}`);
  const others = $derived(
    method.compounds.filter((c) => c.role === "target" && c.id !== compound.id && !method.curves.own?.[c.id]?.relative_to),
  );
  const number = (text: string) => Number(text.replace(",", "."));
</script>

<section aria-label="Model">
  <h2>Model <span class="r">{curve.relative_to ? "of another compound" : compound.name}</span></h2>
  <div class="set">
    <span>Shape</span><Choice
      label="Shape"
      options={[
        ["linear", "linear"],
        ["quadratic", "quadratic"],
        ["loglog", "log"],
        ["average", "mean"],
        ["one_point", "one point"],
      ]}
      value={shape}
      choose={(s) => setModel((s === "linear" || s === "quadratic") && origin ? `${s}_origin` : s)}
    />
  </div>
  {#if through}
    <div class="set">
      <span>Through zero</span><Choice
        label="Through zero"
        options={[
          ["no", "no"],
          ["yes", "yes"],
        ]}
        value={origin ? "yes" : "no"}
        choose={(v) => setModel(shape + (v === "yes" ? "_origin" : ""))}
      />
    </div>
  {/if}
  {#if through || shape === "loglog"}
    <div class="set">
      <span title="1/s² takes s, the spread of replicates, as a function of the level; as measured needs six replicates at each"
        >Weight</span
      >
      <select
        class="field"
        aria-label="Weight"
        title="How much each standard counts by its level"
        value={weight}
        onchange={(e) => {
          const w = e.currentTarget.value as Own["weight"];
          change({ weight: w }, `${compound.name}: weight ${weightWords[w!]}`);
        }}
      >
        {#each Object.entries(weightWords) as [w, word] (w)}<option value={w}>{word}</option>{/each}
      </select>
    </div>
  {/if}
  <button
    class="lnk more"
    aria-expanded={more}
    title={more ? "Hides the seldom used ways" : "Means, brackets, standard addition, and curves of other compounds"}
    onclick={() => (more = !more)}>{more ? "Fewer ways" : "More ways"}</button
  >
  {#if more}
    <div class="set">
      <span>Uses the curve of</span>
      <select
        class="field"
        aria-label="Uses the curve of"
        title="Reads this compound from the curve of another one"
        value={own?.relative_to ?? ""}
        onchange={(e) =>
          change(
            {
              relative_to: e.currentTarget.value || undefined,
              response_factor: e.currentTarget.value ? (own?.response_factor ?? 1) : undefined,
            },
            `${compound.name}: ${e.currentTarget.value ? `by the curve of ${e.currentTarget.selectedOptions[0]?.text}` : "its own curve"}`,
          )}
      >
        <option value="">its own</option>
        {#each others as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
      </select>
    </div>
    {#if own?.relative_to}
      <label class="set"
        ><span>Relative response factor</span><input
          class="field num"
          value={own.response_factor ?? 1}
          onchange={(e) =>
            above0(e.currentTarget.value) &&
            change(
              { response_factor: number(e.currentTarget.value) },
              `${compound.name}: relative response factor ${e.currentTarget.value}`,
            )}
        /></label
      >
    {/if}
    <p class="note">For all compounds:</p>
    <div class="set">
      <span>Replicates</span><Choice
        label="Replicates"
        options={[
          ["each", "each"],
          ["mean", "as means"],
        ]}
        value={method.curves.averaged ? "mean" : "each"}
        choose={(v) =>
          changeAll(
            { averaged: v === "mean" || undefined },
            v === "mean" ? "curves through the means of replicates" : "curves through each replicate",
          )}
      />
    </div>
    <div class="set">
      <span>Brackets</span><Choice
        label="Brackets"
        options={[
          ["", "none"],
          ["mean", "mean"],
          ["interpolated", "in run order"],
        ]}
        value={method.curves.brackets ?? ""}
        choose={(v) => changeAll({ brackets: v || undefined }, v ? `brackets, ${v}` : "one curve for the run")}
      />
    </div>
    <div class="set">
      <span>Amounts by</span><Choice
        label="Amounts by"
        options={[
          ["curve", "curve"],
          ["standard_addition", "addition"],
        ]}
        value={method.curves.way || "curve"}
        choose={(v) => changeAll({ way: v }, v === "curve" ? "amounts by curves" : "amounts by standard addition")}
      />
    </div>
  {/if}
</section>

<style>
  .set {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    min-height: 28px;
    font-size: 12.5px;
  }
  .set :global(.choice-item) {
    padding-left: 4.5px;
    padding-right: 4.5px;
  }
  .set .num {
    width: 84px;
    text-align: right;
  }
  .more {
    font-size: 12.5px;
  }
</style>
