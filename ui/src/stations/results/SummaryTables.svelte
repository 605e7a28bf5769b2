<script lang="ts">
  // Measures, compounds and injections set against each other, with statistics of each group and a strip of its values.
  import type { Batch, Summary } from "../../api/client";
  import { fixed, missing, significant } from "../../look/number";
  import Columns from "../../parts/Columns.svelte";
  import Strip from "./Strip.svelte";
  import { alike, axisWords, shown, statistics, valueOf, type Axis, type Statistic } from "./summary.svelte";
  import { copied } from "../../state/copying";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";

  let { batch, s, take }: { batch: Batch; s: Summary; /** Takes the tables away as text. */ take: () => void } = $props();
  const order = $derived(shown.order);
  const told = $derived(statistics.filter(([id]) => shown.statistics.includes(id)));
  const tables = $derived(order.each === "measures" ? s.measures.length : s.columns.length);
  const heads = $derived(order.each === "measures" ? s.columns.length : s.measures.length);
  /** Measure and compound of a table's head. */
  const of = (t: number, h: number): [number, number] => (order.each === "measures" ? [t, h] : [h, t]);
  const unitOf = (m: number) => s.measures[m]!.unit;
  const measure = (m: number) => s.measures[m]!.words;
  const tableName = (t: number) => (order.each === "measures" ? measure(t) : s.columns[t]!.name);
  const headName = (h: number) => (order.each === "measures" ? s.columns[h]!.name : `${measure(h)}${unitOf(h) ? `, ${unitOf(h)}` : ""}`);

  function limits(t: number): string {
    if (order.each !== "measures") return "";
    const of = s.limits[t]!;
    const words = [
      ["", of.map((l) => l.low), "≥"],
      ["", of.map((l) => l.high), "≤"],
      ["RSD ", of.map((l) => l.rsd_high), "≤"],
    ] as const;
    const parts = words.flatMap(([what, ends, sign]) => {
      const set = [...new Set(ends.filter((v): v is number => v !== null))];
      return set.length === 0 ? [] : [`limit ${what}${sign} ${set.length === 1 ? set[0] : "its own"}${what ? " %" : ""}`];
    });
    return parts.length ? ` · ${parts.join(", ")}, from the method` : "";
  }
  const value = (m: number, c: number, i: number) => s.values[m]![c]![i] ?? null;
  const outside = (m: number, c: number, v: number | null) => {
    const l = s.limits[m]![c]!;
    return v !== null && ((l.low !== null && v < l.low) || (l.high !== null && v > l.high));
  };
  function stat(m: number, c: number, g: number, what: Statistic) {
    const of = s.statistics[m]![c]![g]!;
    const v = valueOf(of, what);
    const d = s.decimals[m]![c]!;
    const text =
      v === null
        ? missing
        : what === "n"
          ? String(v)
          : what === "rsd"
            ? fixed(v, 2)
            : what === "sd" || what === "interval"
              ? significant(v, 2)
              : fixed(v, d);
    const high = s.limits[m]![c]!.rsd_high;
    const out =
      what === "rsd"
        ? v !== null && high !== null && v > high && alike(s, m, g, shown.by)
        : ["mean", "least", "most", "median"].includes(what) && outside(m, c, v);
    return { text, out, n: what === "mean" && of.n < of.of && of.n > 0 ? `n ${of.n}` : "" };
  }
  /** One scale for a column, so that its groups compare. */
  const range = (m: number, c: number): [number, number] => {
    const there = s.values[m]![c]!.filter((v): v is number => v !== null);
    return [Math.min(...there), Math.max(...there)];
  };
  const name = (i: number) => {
    const inj = s.injections[i]!;
    const elsewhere = inj.batch_id === batch.id || shown.by === "batch" ? "" : `${inj.batch}, `;
    return `${elsewhere}${inj.number}  ${inj.name}${inj.replicate ? ` ${inj.replicate}` : ""}`;
  };
  /** What stands beside each injection, by choice: when it was taken, and the study's own columns. */
  const beside = $derived(
    shown.beside.flatMap((id) => {
      if (id === "acquired") return [{ id, word: "Acquired", of: (i: number) => day(s.injections[i]!.acquired_at) }];
      const own = batch.own_columns.find((c) => c.id === id);
      return own ? [{ id, word: own.name, of: (i: number) => s.injections[i]!.own?.[id] ?? "" }] : [];
    }),
  );
  const day = (at: string | null) =>
    at === null
      ? missing
      : new Date(at).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", timeZone: "UTC" });
  type Line = { group: number; injection?: number; what?: Statistic };
  /** What stands one after the other along the injections: the head of each group, its injections where it is open, its statistics. */
  const lines = $derived(
    s.groups.flatMap<Line>((g, k) => [
      { group: k },
      ...(shown.folded(g.name, g.injections.length) ? [] : g.injections.map((i) => ({ group: k, injection: i }))),
      ...told.map(([what]) => ({ group: k, what })),
    ]),
  );
  const chosen = (m: number, c: number, l: Line) =>
    l.what !== undefined &&
    shown.at?.measure === s.measures[m]!.id &&
    shown.at.compound === s.columns[c]!.id &&
    shown.at.group === l.group &&
    shown.at.what === l.what;
  function choose(m: number, c: number, l: Line) {
    if (l.what) shown.at = { measure: s.measures[m]!.id, compound: s.columns[c]!.id, group: l.group, what: l.what };
    else if (l.injection !== undefined) {
      const inj = s.injections[l.injection]!;
      const of = batch.version.method.compounds.some((k) => k.id === s.columns[c]!.id) ? { c: s.columns[c]!.id } : {};
      if (inj.batch_id === batch.id) place.go({ query: { i: inj.id, ...of } }, false);
      else place.go({ batch: inj.batch_id, station: "peaks", query: { i: inj.id } });
    }
  }
  const words: Record<Statistic, string> = Object.fromEntries(statistics) as Record<Statistic, string>;

  let carried = $state<Axis | null>(null);
  let over = $state<Axis | null>(null);
  const coming = $derived(carried && over && carried !== over ? shown.swapped(carried, over) : null);
  function drop() {
    if (coming) shown.turnTo(coming);
    carried = over = null;
  }
  function turn() {
    shown.turn = (shown.turn + 1) % 4;
    shown.keep();
  }
  $effect(() =>
    keys({
      "alt+t": turn,
      "+": () => (shown.turned = s.groups.filter((g) => g.injections.length > 6).map((g) => g.name)),
      "-": () => (shown.turned = s.groups.filter((g) => g.injections.length <= 6).map((g) => g.name)),
      "mod+c": () => {
        const marked = getSelection()?.toString();
        if (marked) void copied(marked);
        else take();
      },
    }),
  );
</script>

{#snippet chip(axis: Axis, sign: string)}
  <button
    class="chip"
    class:over={over === axis && carried !== null && carried !== axis}
    draggable="true"
    title="Drag it onto another head and they change places; Alt T turns the tables"
    ondragstart={() => (carried = axis)}
    ondragend={() => (carried = over = null)}
    ondragover={(e) => {
      e.preventDefault();
      over = axis;
    }}
    ondragleave={() => (over = null)}
    ondrop={(e) => {
      e.preventDefault();
      drop();
    }}
    onclick={turn}><i aria-hidden="true">⠿</i> <em>{axisWords[axis]}</em> {sign}</button
  >
{/snippet}

<div class="roll" role="region" aria-label="Summary tables">
  <p class="axes">
    {@render chip(order.each, "≡")}
    <span class="mut">one table each</span>
    <span class="note" aria-live="polite"
      >{coming
        ? `one table each: ${axisWords[coming.each].toLowerCase()}; across: ${axisWords[coming.across].toLowerCase()}`
        : carried && over && carried !== over
          ? "injections cannot part the tables: there would be nothing to take a mean of"
          : ""}</span
    >
    <span class="right">{@render chip(order.across, "→")} <span class="mut">across</span></span>
  </p>
  {#each { length: tables } as _, t (t)}
    <div class="sub">
      <h2>{tableName(t)}</h2>
      <span class="note">{order.each === "measures" ? `${unitOf(t)}${limits(t)}` : ""}</span>
    </div>
    {#if order.down === "injections"}
      <Columns stay={1} class="flush">
        <table>
          <thead
            ><tr
              ><th class="l"
                >{#if t === 0}{@render chip("injections", "↓")}{/if}</th
              >{#each beside as b (b.id)}<th class="l">{b.word}</th>{/each}{#each { length: heads } as _, h (h)}<th>{headName(h)}</th
                >{/each}</tr
            ></thead
          >
          <tbody>
            {#each lines as l, k (k)}
              {@const g = s.groups[l.group]!}
              {#if l.what === undefined && l.injection === undefined}
                <tr class="group">
                  <td class="l"
                    ><button
                      title={shown.folded(g.name, g.injections.length) ? "Shows its injections" : "Folds its injections"}
                      aria-expanded={!shown.folded(g.name, g.injections.length)}
                      onclick={() => shown.fold(g.name)}
                      ><i class:open={!shown.folded(g.name, g.injections.length)} aria-hidden="true">▸</i>
                      {g.name} <span class="mut num">{g.injections.length}</span></button
                    ></td
                  >
                  {#each beside as b (b.id)}<td></td>{/each}
                  {#each { length: heads } as _, h (h)}
                    {@const [m, c] = of(t, h)}
                    <td
                      >{#if shown.strips}<Strip
                          values={g.injections.map((i) => value(m, c, i))}
                          range={range(m, c)}
                          mean={s.statistics[m]![c]![l.group]!.mean}
                          low={s.limits[m]![c]!.low}
                          high={s.limits[m]![c]!.high}
                        />{/if}</td
                    >
                  {/each}
                </tr>
              {:else}
                <tr class:line={l.injection !== undefined} class:mean={l.what === "mean"}>
                  <td class="l in">{l.injection !== undefined ? name(l.injection) : words[l.what!]}</td>
                  {#each beside as b (b.id)}<td class="l">{l.injection !== undefined ? b.of(l.injection) : ""}</td>{/each}
                  {#each { length: heads } as _, h (h)}
                    {@const [m, c] = of(t, h)}
                    {#if l.injection !== undefined}
                      {@const v = value(m, c, l.injection)}
                      <td class:att={outside(m, c, v)} onclick={() => choose(m, c, l)}
                        >{v === null ? missing : fixed(v, s.decimals[m]![c]!)}</td
                      >
                    {:else}
                      {@const v = stat(m, c, l.group, l.what!)}
                      <td class:att={v.out} class:at={chosen(m, c, l)} onclick={() => choose(m, c, l)}
                        >{#if v.n}<span class="n">{v.n}</span>{/if}
                        {v.text}</td
                      >
                    {/if}
                  {/each}
                </tr>
              {/if}
            {/each}
          </tbody>
        </table>
      </Columns>
    {:else}
      <Columns stay={1} class="flush">
        <table>
          <thead
            ><tr
              ><th class="l"></th>{#each s.groups as g, k (g.name)}<th
                  class="l span"
                  colspan={lines.filter((l) => l.group === k).length - 1}
                  ><button title="Shows or folds its injections" onclick={() => shown.fold(g.name)}
                    >{g.name} <span class="mut num">{g.injections.length}</span></button
                  ></th
                >{/each}</tr
            ><tr
              ><th class="l">{order.down === "compounds" ? "Compound" : "Measure"}</th
              >{#each lines.filter((l) => l.what ?? l.injection !== undefined) as l, k (k)}<th class:line={l.injection !== undefined}
                  >{l.injection !== undefined ? s.injections[l.injection]!.number : words[l.what!]}</th
                >{/each}</tr
            ></thead
          >
          <tbody>
            {#each { length: heads } as _, h (h)}
              {@const [m, c] = of(t, h)}
              <tr>
                <td class="l">{headName(h)}</td>
                {#each lines.filter((l) => l.what ?? l.injection !== undefined) as l, k (k)}
                  {#if l.injection !== undefined}
                    {@const v = value(m, c, l.injection)}
                    <td class="line" class:att={outside(m, c, v)} onclick={() => choose(m, c, l)}
                      >{v === null ? missing : fixed(v, s.decimals[m]![c]!)}</td
                    >
                  {:else}
                    {@const v = stat(m, c, l.group, l.what!)}
                    <td class:att={v.out} class:at={chosen(m, c, l)} class:mean={l.what === "mean"} onclick={() => choose(m, c, l)}
                      >{#if v.n}<span class="n">{v.n}</span>{/if}
                      {v.text}</td
                    >
                  {/if}
                {/each}
              </tr>
            {/each}
          </tbody>
        </table>
      </Columns>
    {/if}
  {/each}
  <p class="note">
    {batch.version.name}, version {batch.version.number}. Statistics are over the values that stand; where one is missing, n says so.
  </p>
</div>

<style>
  .axes {
    display: flex;
    align-items: center;
    gap: 12px;
    padding: 2px 0 4px;
  }
  .axes .right {
    margin-left: auto;
    display: inline-flex;
    align-items: center;
    gap: 10px;
  }
  .chip {
    border: 1px solid var(--mist-3);
    padding: 1px 9px;
    font: 13.5px/20px var(--f-read);
    background: var(--paper);
    cursor: grab;
  }
  .chip i {
    color: var(--ink-3);
    font-style: normal;
    font-size: 11px;
  }
  .chip.over {
    border-color: var(--ai);
    background: var(--row-ai);
  }
  .sub {
    display: flex;
    align-items: baseline;
    gap: 10px;
    padding-top: 10px;
  }
  .sub h2 {
    margin: 0;
  }
  td,
  th {
    padding: 0 7px;
    height: 20px;
    line-height: 19px;
    font-size: 13px;
    vertical-align: baseline;
  }
  th {
    color: var(--ink);
    font-weight: 500;
  }
  tbody td {
    cursor: pointer;
    border: 0;
  }
  tr.group td {
    cursor: default;
    border-top: 1px solid var(--mist-1);
    padding-top: 3px;
  }
  tr.group button {
    font: 500 14.5px/18px var(--f-read);
  }
  tr.group i {
    display: inline-block;
    width: 14px;
    font-style: normal;
    font-size: 10px;
    color: var(--ink-3);
  }
  tr.group i.open {
    transform: rotate(90deg) translateY(4px);
  }
  td.in {
    padding-left: 24px;
    color: var(--ink-2);
    white-space: nowrap;
  }
  tr.line td,
  td.line,
  th.line {
    color: var(--ink-3);
    font-weight: 400;
  }
  tr.mean td:not(.in),
  td.mean {
    font-weight: 600;
  }
  .att {
    color: var(--kaki) !important;
    font-weight: 600;
  }
  td.at {
    outline: 2px solid var(--kaki);
    outline-offset: -2px;
    background: var(--row-kaki);
  }
  .n {
    color: var(--ink-3);
    font-weight: 400;
    margin-right: 4px;
  }
  .span {
    border-left: 1px solid var(--mist-1);
  }
</style>
