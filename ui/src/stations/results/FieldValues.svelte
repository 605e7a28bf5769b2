<script lang="ts">
  // The values of a field over the batch: in run order as a picture, and as a list.
  import type { Batch, LabField } from "../../api/client";
  import { replicate } from "../../state/desk.svelte";
  import { fields } from "./fields.svelte";

  let {
    batch,
    field,
    stale,
  }: { batch: Batch; field: LabField; /** The formula is not understood: these are as they were last. */ stale: boolean } = $props();
  const values = $derived(fields.trial?.values ?? []);
  const there = $derived(values.filter((v) => v.number !== null));
  const absent = $derived(values.filter((v) => v.number === null && !v.shown));
  const mean = $derived(there.length ? there.reduce((n, v) => n + v.number!, 0) / there.length : undefined);
  const span = $derived.by(() => {
    const all = [...there.map((v) => v.number!), ...[field.low, field.high].filter((v): v is number => v != null)];
    const low = Math.min(...all);
    const high = Math.max(...all);
    const room = (high - low || Math.abs(high) || 1) * 0.12;
    return { low: low - room, high: high + room };
  });
  let wide = $state(600);
  const tall = 120;
  const y = (v: number) => tall - 6 - ((v - span.low) / (span.high - span.low)) * (tall - 12);
  const x = (k: number) => 46 + ((k + 0.5) / Math.max(1, values.length)) * (wide - 60);
  const nameOf = (v: (typeof values)[number]) => {
    const k = batch.injections.findIndex((i) => i.id === v.injection_id);
    const c = batch.version.method.compounds.find((o) => o.id === v.compound_id)?.name;
    return k < 0 ? batch.name : `${c ? `${c}, ` : ""}${k + 1} ${batch.injections[k]!.name} ${replicate(batch, k)}`;
  };
  const short = (v: number) => Number(v.toPrecision(4)).toString();
</script>

<h2>
  In this batch <span class="note"
    >{there.length || values.length
      ? `${there.length} of ${values.length} have a number${mean !== undefined ? `, mean ${short(mean)}, ${short(Math.min(...there.map((v) => v.number!)))} to ${short(Math.max(...there.map((v) => v.number!)))}` : ""}`
      : ""}</span
  >{#if values.some((v) => v.outside)}<span class="r att">{values.filter((v) => v.outside).length} outside</span>{/if}
</h2>
{#if there.length > 1}
  <div bind:clientWidth={wide} class:stale>
    <svg width={wide} height={tall} role="img" aria-label="{field.name} in run order">
      {#if field.low != null}<line x1="46" x2={wide - 14} y1={y(field.low)} y2={y(field.low)} class="limit" /><text
          x="40"
          y={y(field.low) + 4}
          text-anchor="end">{short(field.low)}</text
        >{/if}
      {#if field.high != null}<line x1="46" x2={wide - 14} y1={y(field.high)} y2={y(field.high)} class="limit" /><text
          x="40"
          y={y(field.high) + 4}
          text-anchor="end">{short(field.high)}</text
        >{/if}
      {#each values as v, k (k)}{#if v.number !== null}{#if v.outside}<path
              d="M{x(k) - 4} {y(v.number) - 4}l8 8m0 -8l-8 8"
              class="out"
            />{:else}<circle
              cx={x(k)}
              cy={y(v.number)}
              r={v.injection_id === fields.injection ? 4 : 2.4}
              class:here={v.injection_id === fields.injection}
            />{/if}{/if}{/each}
    </svg>
  </div>
{/if}
<div class="values" class:stale>
  {#each values.slice(0, 400) as v, k (k)}
    <p class:on={v.injection_id !== undefined && v.injection_id === fields.injection}>
      <span>{nameOf(v)}</span><b class="num">{v.shown || "–"}</b><span class={v.outside ? "att" : "mut"} title={v.why}
        >{v.outside ? "outside" : v.why ? v.why : field.low != null || field.high != null ? "passes" : ""}</span
      >
    </p>
  {/each}
</div>
{#if absent.length}<p class="note">
    {absent.length} without a value: {absent[0]!.why}{absent.length > 1 ? ", and others" : ""}.
  </p>{/if}

<style>
  h2 {
    display: flex;
    gap: 10px;
    align-items: baseline;
  }
  h2 .r {
    margin-left: auto;
    font-size: 12.5px;
  }
  svg text {
    font-size: 11px;
    fill: var(--ink-3);
  }
  svg circle {
    fill: var(--ai);
  }
  svg .here {
    fill: var(--kaki);
  }
  .limit {
    stroke: var(--ochre, #a8802a);
    stroke-dasharray: 4 3;
  }
  .out {
    stroke: var(--kaki);
    stroke-width: 1.4;
    fill: none;
  }
  .stale {
    opacity: 0.45;
  }
  .values {
    columns: 2 300px;
    column-gap: 22px;
    font-size: 12.5px;
  }
  .values p {
    display: grid;
    grid-template-columns: 1fr 92px minmax(64px, auto);
    gap: 10px;
    line-height: 20px;
    border-bottom: 1px solid var(--mist-1);
    break-inside: avoid;
  }
  .values p > span {
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
  }
  .values p > span:last-child {
    max-width: 150px;
  }
  .values .on {
    background: var(--row-kaki);
  }
</style>
