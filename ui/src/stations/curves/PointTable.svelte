<script lang="ts">
  // The points of a curve: what each reads back as, whether it is in use, and whether its level is.
  import type { Choices, Curve, Method } from "../../api/client";
  import { signed, significant } from "../../look/number";
  import Glyph, { stairSteps } from "../../parts/Glyph.svelte";
  import { place } from "../../state/place.svelte";

  let {
    curve,
    method,
    states: list,
    levels,
    hovered,
    hover,
    toggle,
    setLevel,
  }: {
    curve: Curve;
    method: Method;
    /** The levels of this compound that are not simply in use. */
    states: NonNullable<Choices["levels"]>[string];
    levels: number[];
    hovered: string | null;
    hover: (id: string | null) => void;
    toggle: (id: string) => void;
    setLevel: (level: number, state: "in use" | "left_out" | "kept") => void;
  } = $props();

  const states = $derived(new Map(list.map((l) => [l.level, l.state])));
  const own = $derived(curve.points.some((p) => p.content !== p.level));
  const own_batch = $derived(!curve.from);
</script>

<table>
  <thead
    ><tr
      ><th class="l">Level{own ? "" : `, ${method.curves.unit}`}</th>{#if own}<th>Holds, {method.curves.unit}</th>{/if}<th
        >{curve.against ? "Ratio" : "Response"}</th
      ><th>Back-calc.</th><th>Deviation</th><th class="l" title="Whether the point counts; press it to leave it out or take it in again"
        >Point</th
      ><th class="l" title="What this level is for this compound: in use, left out, or kept for batches to come">This level</th></tr
    ></thead
  >
  <tbody>
    {#each curve.points as p, i (p.injection_id + i)}
      {@const q = curve.fit?.points[i]}
      {@const d = q?.deviation_percent ?? null}
      <tr class:hov={hovered === p.injection_id} onpointerenter={() => hover(p.injection_id)} onpointerleave={() => hover(null)}>
        <td class="l"
          ><Glyph role="standard" steps={stairSteps(p.level, levels)} />
          <a
            href="?i={p.injection_id}"
            onclick={(e) => (e.preventDefault(), place.go({ station: "peaks", query: { i: p.injection_id, c: curve.compound_id } }))}
            title="Open the peak">{p.level}</a
          ></td
        >
        {#if own}<td>{significant(p.content, 4)}</td>{/if}
        <td class:gone={p.left_out}>{significant(p.response, 4)}</td>
        <td class:mut={!p.in_range || p.left_out}>{significant(q?.back_calculated, 4)}</td>
        <td
          class:att={d !== null && Math.abs(d) > (method.checks.deviation_percent || 20)}
          title={q?.outlier_p !== null && q?.outlier_p !== undefined
            ? `studentised residual ${signed(q.studentised, 2)}, p ${significant(q.outlier_p, 2)}`
            : ""}
          >{d === null ? "–" : `${signed(d, 1)} %`}{#if (q?.outlier_p ?? 1) < 0.05}<span class="cau"> !</span>{/if}</td
        >
        <td class="l">
          {#if p.kept}<span class="mut" title={p.kept_from ? `measured in ${p.kept_from}` : undefined}>kept</span>
          {:else}<button
              class="use"
              class:att={p.left_out}
              onclick={() => toggle(p.injection_id)}
              title={p.left_out ? `left out: ${p.reason}` : "Leave this point out"}
              >{p.left_out ? "left out" : p.in_range ? "in" : "outside"}</button
            >{/if}
        </td>
        <td class="l"
          >{#if own_batch && (i === 0 || curve.points[i - 1]!.level !== p.level)}
            <select
              class="field"
              aria-label="Level {p.level} is"
              title="In use, left out, or kept for batches to come"
              value={states.get(p.level) ?? "in use"}
              onchange={(e) => setLevel(p.level, e.currentTarget.value as "in use")}
            >
              <option>in use</option><option>kept</option><option value="left_out">left out</option>
            </select>
          {/if}</td
        >
      </tr>
    {/each}
  </tbody>
</table>

<style>
  td,
  th {
    padding: 0 6px;
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
  select {
    height: 19px;
    line-height: 18px;
    font-size: 12px;
    padding: 0;
    border: 0;
    color: var(--ink-3);
  }
</style>
