<script lang="ts">
  import { decimalsFor, fixed, missing, significant } from "../../look/number";
  import Columns from "../../parts/Columns.svelte";
  import Mark from "../../parts/Mark.svelte";
  import type { Shown } from "../../plot/Chromatogram.svelte";
  import type { Method } from "../../api/client";
  import { flagWords, sideWords } from "./words";

  let {
    peaks,
    unit,
    method,
    selected,
    hovered,
    select,
    hover,
    pending,
  }: {
    pending: boolean;
    peaks: Shown[];
    unit: string;
    method: Method;
    selected: number | null;
    hovered: number | null;
    select: (n: number) => void;
    hover: (n: number | null) => void;
  } = $props();

  const least = $derived(new Map(method.compounds.map((c) => [c.id, c.min_resolution ?? 0])));
  const decimals = $derived({
    area: decimalsFor(peaks.map((p) => p.area_s)),
    height: decimalsFor(peaks.map((p) => p.height)),
  });
  const swatch = (p: Shown) => (p.standard ? "moss" : p.name ? "ai" : "mist");
</script>

<Columns stay={2} role="region" aria-label="Peaks" class="peaks">
  <table>
    <thead>
      <tr>
        <th class="l" style="width:24px">#</th><th class="l">Name</th><th>RT, min</th><th>Area, {unit}·s</th><th>Area %</th><th
          >Height, {unit}</th
        ><th>Width ½, min</th><th>Tailing</th><th>Plates</th><th>Resolution</th><th>S/N</th><th class="l how">How split</th>
      </tr>
    </thead>
    <tbody>
      {#each peaks as p (p.number)}
        {@const limit = least.get(p.compound_id) ?? 0}
        {@const low = limit > 0 && p.resolution !== null && p.resolution < limit}
        <tr
          class:sel={p.number === selected}
          class:hov={p.number === hovered}
          onpointerenter={() => hover(p.number)}
          onpointerleave={() => hover(null)}
          onclick={() => select(p.number)}
        >
          <td class="l mut">{p.number}</td>
          <td class="l">
            <button class="nm" onclick={() => select(p.number)} title="Selects the peak, here and on the chromatogram">
              <i class="sw {swatch(p)}"></i>{#if p.name}{p.name}{:else}<span class="mut">unnamed</span>{/if}
              {#if p.standard}<span class="mut">int. std</span>{/if}
              {#each p.flags as flag (flag)}<span class="att">{flagWords[flag]}</span>{/each}
            </button>
          </td>
          <td>{fixed(p.apex_min, 3)}</td>
          <td title="± {significant(p.area_standard_uncertainty_s, 2)} {unit}·s, standard uncertainty; its terms stand under All measures"
            >{fixed(p.area_s, decimals.area)}</td
          >
          <td>{fixed(p.area_percent, 2)}</td>
          <td>{fixed(p.height, decimals.height)}</td>
          <td class:mut={p.width_half_min === null}>{fixed(p.width_half_min, 3)}</td>
          <td class:mut={p.tailing === null} class:cau={(p.tailing ?? 0) > 2}>{fixed(p.tailing, 2)}</td>
          <td class:mut={p.plates === null}>{fixed(p.plates, 0)}</td>
          <td class:mut={p.resolution === null} class:att={low}>
            {#if low}<Mark name="look" />{/if}
            {fixed(p.resolution, 2)}
          </td>
          <td class:mut={p.signal_to_noise === null}>{fixed(p.signal_to_noise, 0)}</td>
          <td class="l sec how">{sideWords[p.start_kind]} · {sideWords[p.end_kind]}</td>
        </tr>
      {:else}
        <tr><td class="l mut" colspan="12">{pending ? "processing …" : `${missing} no peaks under these settings`}</td></tr>
      {/each}
    </tbody>
  </table>
</Columns>

<style>
  :global(.peaks) {
    flex: 0 1 auto;
    max-height: 46%;
  }
  th,
  td {
    padding-left: 7px;
    padding-right: 7px;
  }
  .how {
    padding-left: 16px;
  }
  td:has(> .nm) {
    white-space: normal;
    min-width: 150px;
  }
  .nm {
    text-align: left;
    display: inline-flex;
    align-items: center;
    gap: 7px;
  }
  .sw {
    width: 9px;
    height: 9px;
    border-bottom: 2px solid var(--mist-3);
    background: var(--w-mist-a);
  }
  .sw.ai {
    border-color: var(--ai);
    background: var(--w-ai-a);
  }
  .sw.moss {
    border-color: var(--moss);
    background: var(--w-moss-a);
  }
  tbody tr {
    cursor: pointer;
  }
</style>
