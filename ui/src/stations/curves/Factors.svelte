<script lang="ts">
  // Response over content, compound by compound: how far a mean factor holds, and how the compounds compare.
  import type { Curve, Method } from "../../api/client";
  import Columns from "../../parts/Columns.svelte";
  import { missing, significant } from "../../look/number";

  let { curves, method, chosen, choose }: { curves: Curve[]; method: Method; chosen: Curve; choose: (c: Curve) => void } = $props();

  const names = $derived(new Map(method.compounds.map((c) => [c.id, c.name])));
  const base = $derived(chosen.response_factors.mean);
  const own = $derived(curves.filter((c) => !c.relative_to));
  const levels = $derived([...new Set(own.flatMap((c) => c.level_factors.map((f) => f.level)))].sort((a, b) => a - b).slice(0, 12));
  const at = (c: Curve, level: number) => c.level_factors.find((f) => f.level === level)?.mean ?? null;
</script>

<div class="roll" role="region" aria-label="Response factors">
  <p class="note">
    Response ÷ content, in {method.curves.response}{own.some((c) => c.against) ? " ratio" : ""} per {method.curves.unit}. Where it is the
    same at every level, a mean factor holds; relative factors are to {names.get(chosen.compound_id)}.
  </p>
  <Columns stay={1} class="factors">
    <table>
      <thead
        ><tr
          ><th class="l">Compound</th>{#each levels as l (l)}<th>{l}</th>{/each}<th>Points</th><th>Mean</th><th>RSD, %</th><th>Relative</th
          ></tr
        ></thead
      >
      <tbody>
        {#each own as c (c.compound_id)}
          {@const f = c.response_factors}
          <tr class:sel={c === chosen}>
            <td class="l"
              ><button class="name" onclick={() => choose(c)} title="Shows the curve of this compound">{names.get(c.compound_id)}</button
              ></td
            >
            {#each levels as l (l)}<td>{at(c, l) === null ? missing : significant(at(c, l), 4)}</td>{/each}
            <td>{f.n}</td>
            <td><b>{significant(f.mean, 4)}</b></td>
            <td class:cau={(f.rsd_percent ?? 0) > (method.checks.deviation_percent || 20)}>{significant(f.rsd_percent, 2)}</td>
            <td>{base && f.mean !== null ? significant(f.mean / base, 4) : missing}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </Columns>
  <p class="note">Coloured where the spread is above the limit on the deviation of a level. The workbook holds the same table.</p>
</div>

<style>
  :global(.factors) {
    margin: 8px 0;
  }
  .name {
    font-weight: 500;
  }
  .name:hover {
    color: var(--ai);
  }
</style>
