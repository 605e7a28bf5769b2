<script lang="ts" module>
  /** What a time rule does, in words. */
  export const ruleWords: Record<string, string> = { leave_out: "do not integrate", negative: "negative peaks" };
</script>

<script lang="ts">
  import type { Settings, Trace } from "../../api/client";
  import { frame, ticks, label } from "../../plot/frame";

  let {
    rules,
    trace,
    from,
    to,
    change,
  }: {
    rules: NonNullable<Settings["time_rules"]>;
    trace: Trace | undefined;
    from: number;
    to: number;
    change: (rules: NonNullable<Settings["time_rules"]>) => void;
  } = $props();

  const end = $derived(trace?.min.at(-1) ?? 1);
  const f = $derived(frame(276, 36, { l: 1, r: 1, t: 3, b: 16 }, [trace?.min[0] ?? 0, end], [0, 1]));
  const ridge = $derived.by(() => {
    if (!trace) return "";
    const n = trace.value.length;
    const most = trace.value.reduce((a, b) => Math.max(a, b), 1e-9);
    let d = "";
    for (let c = 0; c < 140; c++) {
      const i = Math.floor((c * n) / 140);
      d += `${c ? "L" : "M"}${f.sx(trace.min[i]!).toFixed(1)} ${f.sy(Math.pow(Math.max(0, trace.value[i]! / most), 0.6)).toFixed(1)}`;
    }
    return d;
  });
  const run = $derived(ticks(f.from, f.to, 6));
  const add = () =>
    change(
      [...rules, { kind: "leave_out", from_min: Math.round(from * 100) / 100, to_min: Math.round(to * 100) / 100 }].sort(
        (a, b) => a.from_min - b.from_min,
      ),
    );
  function set(i: number, side: "from_min" | "to_min", text: string) {
    const v = Number(text.replace(",", "."));
    if (Number.isFinite(v)) change(rules.map((r, k) => (k === i ? { ...r, [side]: v } : r)));
  }
</script>

<section aria-label="Time rules">
  <h2>
    Time rules <span class="r"
      ><button class="lnk" title="Do not integrate the stretch that is shown" onclick={add}>Leave out what is shown</button></span
    >
  </h2>
  <svg width="276" height="36" viewBox="0 0 276 36" aria-hidden="true">
    {#if ridge}<path d="{ridge}L275 20L1 20Z" fill="var(--far)" />{/if}
    {#each rules as r, i (i)}
      {@const x0 = Math.max(1, f.sx(r.from_min))}
      {@const x1 = Math.min(275, f.sx(r.to_min))}
      {#if r.kind === "negative"}
        <path d="M{x0} 9v11M{x1} 9v11M{x0} 10.5H{x1}" stroke="var(--ink)" stroke-width="1.3" fill="none" />
        <path d="M{(x0 + x1) / 2 - 5} 10.5q3.5 0 5 8q1.5 -8 5 -8" stroke="var(--ink)" stroke-width="1.2" fill="none" />
      {:else}
        <rect x={x0} y="9" width={Math.max(0, x1 - x0)} height="11" fill="var(--w-mist-a)" />
        {#each { length: Math.max(0, Math.floor((x1 - x0) / 5)) } as _, k (k)}<path
            d="M{x0 + k * 5} 20l5 -11"
            stroke="var(--mist-3)"
            stroke-width=".8"
          />{/each}
      {/if}
    {/each}
    <path d="M1 20.5H275" stroke="var(--mist-3)" />
    {#each run.at as v (v)}
      <path d="M{f.sx(v)} 20.5v4" stroke="var(--mist-3)" />
      <text class="tl" x={f.sx(v)} y="35" text-anchor={f.sx(v) < 5 ? "start" : f.sx(v) > 270 ? "end" : "middle"}
        >{label(v, run.decimals)}</text
      >
    {/each}
  </svg>
  {#each rules as r, i (i)}
    <div class="rule">
      <input class="field" aria-label="From, min" value={r.from_min} onchange={(e) => set(i, "from_min", e.currentTarget.value)} />
      –
      <input class="field" aria-label="To, min" value={r.to_min} onchange={(e) => set(i, "to_min", e.currentTarget.value)} />
      <select
        class="field"
        aria-label="What the rule does"
        value={r.kind}
        onchange={(e) => change(rules.map((o, k) => (k === i ? { ...o, kind: e.currentTarget.value } : o)))}
      >
        {#each Object.entries(ruleWords) as [kind, words] (kind)}<option value={kind}>{words}</option>{/each}
      </select>
      <button
        class="mut"
        aria-label="Remove the rule from {r.from_min} to {r.to_min} min"
        onclick={() => change(rules.filter((_, k) => k !== i))}>×</button
      >
    </div>
  {/each}
</section>

<style>
  svg {
    margin: 5px 0 4px;
  }
  .rule {
    display: grid;
    grid-template-columns: 44px 8px 44px 1fr 16px;
    align-items: baseline;
    column-gap: 4px;
    font-size: 12.5px;
    line-height: 22px;
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
