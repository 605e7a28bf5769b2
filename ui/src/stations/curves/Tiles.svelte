<script lang="ts">
  // All curves as small multiples, each with its range and a mark where it wants eyes.
  import type { Curve, Method } from "../../api/client";
  import Mark from "../../parts/Mark.svelte";

  let {
    curves,
    method,
    chosen,
    noticed,
    choose,
  }: { curves: Curve[]; method: Method; chosen: Curve | undefined; noticed: Set<string | undefined>; choose: (c: Curve) => void } =
    $props();
  const names = $derived(new Map(method.compounds.map((c) => [c.id, c.name])));

  function mini(c: Curve): { line: string; points: { x: number; y: number; used: boolean; out: boolean }[] } {
    const hx = Math.max(1e-9, ...c.points.map((p) => p.x));
    const hy = Math.max(1e-12, ...c.points.map((p) => p.response));
    const X = (v: number) => 2 + (v / hx) * 92;
    const Y = (v: number) => 34 - (v / hy) * 30;
    const inside = c.line.filter((l) => l.x <= hx);
    return {
      line: inside.map((l, i) => `${i ? "L" : "M"}${X(l.x).toFixed(1)} ${Y(l.y).toFixed(1)}`).join(""),
      points: c.points.map((p) => ({ x: X(p.x), y: Y(p.response), used: p.in_range && !p.left_out, out: p.left_out })),
    };
  }
  const under = (c: Curve) =>
    c.relative_to
      ? `by ${names.get(c.relative_to)}`
      : c.fit
        ? `${c.fit.low_x === c.fit.high_x ? "" : `${c.fit.low_x} – `}${c.fit.high_x} ${method.curves.unit}`
        : c.additions?.length
          ? `${c.additions.length} additions`
          : "no curve";
</script>

<div class="tiles" role="tablist" aria-label="Compounds">
  {#each curves as c, i (c.compound_id)}
    {@const m = mini(c)}
    <button
      role="tab"
      aria-selected={c === chosen}
      class:on={c === chosen}
      title={c.fit ? `${c.verdict.good}${c.verdict.doubt ? `; ${c.verdict.doubt}` : ""}` : c.problem}
      onclick={() => choose(c)}
    >
      <span class="tn"
        ><span>{names.get(c.compound_id)}</span>{#if noticed.has(c.compound_id)}<span class="att"><Mark name="look" /></span
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
      <span class="tr">{under(c)}</span>
    </button>
  {/each}
</div>

<style>
  .tiles {
    display: grid;
    grid-auto-flow: column;
    grid-auto-columns: minmax(104px, 150px);
    margin: 0 12px 0 16px;
    border-bottom: 1px solid var(--mist-1);
    overflow-x: auto;
    flex: none;
  }
  button {
    padding: 8px 8px 7px;
    text-align: left;
    border-right: 1px solid var(--mist-1);
    outline-offset: -2px;
  }
  button.on {
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
</style>
