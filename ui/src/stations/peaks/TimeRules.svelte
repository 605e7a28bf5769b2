<script lang="ts">
  // Time rules: on a ruler along the run, and the same in words.
  import type { Trace } from "../../api/client";
  import RuleRuler from "./RuleRuler.svelte";
  import { partWords, ruleWords, settingWords, type Part, type Rule } from "./words";

  let {
    rules,
    trace,
    from,
    to,
    change,
  }: { rules: Rule[]; trace: Trace | undefined; from: number; to: number; change: (rules: Rule[]) => void } = $props();

  let chosen = $state<number | null>(null);
  const sorted = (list: Rule[]) => list.toSorted((a, b) => a.from_min - b.from_min);
  const round = (v: number) => Math.round(v * 100) / 100;
  export function create(fromMin: number, toMin: number, kind: Rule["kind"] = "leave_out") {
    const rule: Rule = { kind, from_min: round(fromMin), to_min: round(toMin) };
    const list = sorted([...rules, rule]);
    chosen = list.indexOf(rule);
    change(list);
  }
  const set = (i: number, values: Partial<Rule>) => change(rules.map((r, k) => (k === i ? { ...r, ...values } : r)));
  function number(text: string, use: (v: number) => void) {
    const v = Number(text.replace(",", "."));
    if (Number.isFinite(v)) use(v);
  }
  /** What a rule of another kind needs besides its stretch. */
  function kindOf(i: number, kind: Rule["kind"]) {
    const { from_min, to_min } = rules[i]!;
    const rest: Partial<Rule> = kind === "part" ? { how: "tangent" } : kind === "change" ? { setting: "threshold", value: 20 } : {};
    change(rules.map((r, k) => (k === i ? { kind, from_min, to_min, ...rest } : r)));
  }
</script>

<section aria-label="Time rules">
  <h2>
    Time rules <span class="r"
      ><button class="lnk" title="A rule for the stretch that is shown" onclick={() => create(from, to)}>Add for what is shown</button
      ></span
    >
  </h2>
  <RuleRuler
    {rules}
    {trace}
    {chosen}
    choose={(i) => (chosen = i)}
    {create}
    move={(i, side, min) => {
      const r = rules[i]!;
      if (side === "from_min" ? min < r.to_min || r.kind === "split_here" : min > r.from_min) set(i, { [side]: min });
    }}
  />
  {#each rules as r, i (i)}
    <div class="rule" class:sel={i === chosen}>
      <input
        class="field"
        aria-label="From, min"
        title="Where the rule begins, min"
        value={r.from_min}
        onfocus={() => (chosen = i)}
        onchange={(e) => number(e.currentTarget.value, (v) => set(i, { from_min: v }))}
      />
      {#if r.kind !== "split_here"}–
        <input
          class="field"
          aria-label="To, min"
          title="Where the rule ends, min"
          value={r.to_min}
          onfocus={() => (chosen = i)}
          onchange={(e) => number(e.currentTarget.value, (v) => set(i, { to_min: v }))}
        />{:else}<span></span><span></span>{/if}
      <select
        class="field"
        aria-label="What the rule does"
        title="What is done within this stretch of every run"
        value={r.kind}
        onchange={(e) => kindOf(i, e.currentTarget.value as Rule["kind"])}
      >
        {#each Object.entries(ruleWords) as [kind, words] (kind)}<option value={kind}>{words}</option>{/each}
      </select>
      <button
        class="mut"
        aria-label="Remove the rule from {r.from_min} to {r.to_min} min"
        title="Takes the rule away"
        onclick={() => ((chosen = null), change(rules.filter((_, k) => k !== i)))}>×</button
      >
      {#if r.kind === "part"}
        <select class="field how" aria-label="Part peaks by" value={r.how} onchange={(e) => set(i, { how: e.currentTarget.value as Part })}>
          {#each Object.entries(partWords) as [how, word] (how)}<option value={how}>{word}</option>{/each}
        </select>
      {:else if r.kind === "change"}
        <span class="how">
          <select class="field" aria-label="Setting" value={r.setting} onchange={(e) => set(i, { setting: e.currentTarget.value })}>
            {#each Object.entries(settingWords) as [key, word] (key)}<option value={key}>{word}</option>{/each}
          </select>
          <input
            class="field"
            aria-label="Value in the stretch"
            value={r.value ?? 0}
            onchange={(e) => number(e.currentTarget.value, (v) => set(i, { value: v }))}
          />
        </span>
      {/if}
    </div>
  {/each}
  {#if rules.length === 0}<p class="note">None. Drag along the run above to add one.</p>{/if}
</section>

<style>
  .rule {
    display: grid;
    grid-template-columns: 44px 8px 44px 1fr 16px;
    align-items: baseline;
    column-gap: 4px;
    font-size: 12.5px;
    line-height: 22px;
  }
  .rule.sel {
    box-shadow: -3px 0 0 var(--kaki);
  }
  .how {
    grid-column: 4;
    display: flex;
    gap: 4px;
  }
  select.field {
    width: auto;
    text-align: left;
    padding: 0;
  }
  input.field {
    font-size: 12.5px;
    height: 21px;
    line-height: 20px;
    text-align: right;
    width: 44px;
    border-color: transparent;
  }
  .field:hover,
  .field:focus-visible {
    border-color: var(--mist-3);
  }
</style>
