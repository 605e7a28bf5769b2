<script lang="ts">
  // What the summary is of, which statistics it tells, the working of the one that is looked at, and the tables to take away.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Summary } from "../../api/client";
  import { fixed, missing, significant } from "../../look/number";
  import Choice from "../../parts/Choice.svelte";
  import { ask } from "../../state/ask";
  import { place } from "../../state/place.svelte";
  import { draft } from "../report/layout/draft.svelte";
  import { columnWords, shown, statistics, valueOf, type Statistic } from "./summary.svelte";

  let { batch, s, take, copied }: { batch: Batch; s: Summary | undefined; take: () => void; copied: boolean } = $props();
  const register = createQuery(() => ask.quantities(batch.id, batch.revision));
  const offered = $derived(
    (register.data ?? []).filter((q) => q.kind !== "text" && q.kind !== "moment" && q.lives !== "batch" && !shown.measures.includes(q.id)),
  );
  const chosen = $derived(shown.measures.flatMap((id) => (register.data ?? []).find((q) => q.id === id) ?? []));
  const put = (list: string[]) => {
    shown.measures = list;
    shown.keep();
  };
  function tell(what: Statistic) {
    shown.statistics = shown.statistics.includes(what) ? shown.statistics.filter((w) => w !== what) : [...shown.statistics, what];
    shown.keep();
  }
  const columns = $derived(shown.columnsOf(batch));
  const singles = $derived(columns.filter((id) => batch.version.method.compounds.some((c) => c.id === id)));
  const offeredColumns = $derived(
    ["all", ...batch.version.method.compounds.map((c) => c.id), ...groupsOf(batch), "largest", `sum:${singles.join("+")}`].filter(
      (id) => !columns.includes(id) && (!id.startsWith("sum:") || singles.length > 1),
    ),
  );
  function groupsOf(b: Batch): string[] {
    return [...new Set(b.version.method.compounds.flatMap((c) => (c.role === "target" && c.group ? [`group:${c.group}`] : [])))];
  }
  function putColumns(list: string[]) {
    shown.columns = list;
    shown.keep();
  }
  let wide = $state(false);
  const studies = createQuery(() => ask.studies());
  const others = $derived((studies.data ?? []).find((o) => o.id === batch.study_id)?.batches.filter((b) => b.id !== batch.id) ?? []);
  $effect(() => {
    // What was chosen in another study or batch is not looked at here.
    if (studies.data && shown.batches.some((id) => !others.some((b) => b.id === id)))
      shown.batches = shown.batches.filter((id) => others.some((b) => b.id === id));
  });
  function choose(of: string) {
    if (of === "chosen" && !batch.injections.some((i) => shown.injections.includes(i.id)))
      shown.injections = s?.injections.map((i) => i.id) ?? [];
    shown.of = of;
    shown.keep();
  }
  const turn = (list: string[], id: string) => (list.includes(id) ? list.filter((o) => o !== id) : [...list, id]);
  const layouts = createQuery(() => ask.layouts(batch.id));
  /** Puts a block that tells the same into the layout of the batch that was last used, where it can be moved and kept. */
  function intoLayout() {
    const names = columns.includes("all")
      ? []
      : columns.flatMap((id) => {
          if (id === "largest" || id.startsWith("group:")) return [id];
          const words = columnWords(batch, id);
          return words === undefined ? [] : [id.startsWith("sum:") ? `sum:${words}` : words];
        });
    draft.bring({
      kind: "summary",
      measures: shown.measures,
      statistics: statistics.flatMap(([id]) =>
        shown.statistics.includes(id) ? [id === "least" ? "minimum" : id === "most" ? "maximum" : id] : [],
      ),
      by: shown.by === "batch" ? "none" : shown.by,
      ...(names.length ? { compounds: names } : {}),
      ...(shown.of === "all" ? { of: "all" } : {}),
    });
    const layout = layouts.data?.find((l) => l.layout.each === "batch");
    place.go({ station: "report", query: { face: "layout", ...(layout ? { layout: layout.id } : {}) } });
  }
  const by = $derived([
    ["replicates", "replicates"],
    ["level", "level"],
    ["role", "role"],
    ["none", "none"],
    ...(shown.batches.length ? [["batch", "batch"]] : []),
    ...batch.own_columns.map((c) => [`own:${c.id}`, c.name]),
  ] as [string, string][]);
  const file = (as: string) =>
    `/api/batches/${batch.id}/summary.${as}?${new URLSearchParams({
      ...shown.asked(batch),
      each: shown.order.each === "compounds" ? "compound" : "measure",
      statistics: statistics
        .map(([id]) => id)
        .filter((id) => shown.statistics.includes(id))
        .join(","),
    }).toString()}`;

  const looked = $derived.by(() => {
    const at = shown.at;
    if (!s || !at) return undefined;
    const m = s.measures.findIndex((q) => q.id === at.measure);
    const c = s.columns.findIndex((k) => k.id === at.compound);
    const g = s.groups[at.group];
    if (m < 0 || c < 0 || !g) return undefined;
    return { m, c, g, of: s.statistics[m]![c]![at.group]!, what: at.what };
  });
  const formula = $derived.by(() => {
    if (!s || !looked) return "";
    const { of, m, c, what } = looked;
    const unit = s.measures[m]!.unit;
    const d = s.decimals[m]![c]!;
    const mean = of.mean === null ? missing : fixed(of.mean, d);
    const sd = of.sd === null ? missing : significant(of.sd, 3);
    switch (what) {
      case "mean":
        return `sum of ${of.n} values ÷ ${of.n} = ${mean} ${unit}`;
      case "rsd":
        return `SD ÷ mean = ${sd} ÷ ${mean} ${unit}`;
      case "sd":
        return `√(Σ (value − ${mean})² ÷ ${of.n - 1}) = ${sd} ${unit}`;
      case "interval":
        return `t(0.975, ${of.n - 1}) × ${sd} ÷ √${of.n}`;
    }
    return `over ${of.n} values`;
  });
  /** The values in run order, since drift and scatter have the same deviation. */
  const dots = $derived.by(() => {
    if (!s || !looked) return undefined;
    const list = looked.g.injections.flatMap((i) => {
      const v = s.values[looked.m]![looked.c]![i];
      return v === null || v === undefined ? [] : [{ n: s.injections[i]!.number, v }];
    });
    if (list.length < 2) return undefined;
    const low = Math.min(...list.map((p) => p.v));
    const high = Math.max(...list.map((p) => p.v));
    const first = list[0]!.n;
    const last = list.at(-1)!.n;
    return {
      low,
      high,
      first,
      last,
      points: list.map((p) => ({ x: 4 + ((p.n - first) / (last - first || 1)) * 212, y: 40 - ((p.v - low) / (high - low || 1)) * 32 })),
      drift: slope(list),
    };
  });
  /** How much of the scatter a straight line through the run explains; a sentence where it is most of it and there are points enough. */
  function slope(list: { n: number; v: number }[]): string {
    if (list.length < 6) return "";
    const mx = list.reduce((a, p) => a + p.n, 0) / list.length;
    const my = list.reduce((a, p) => a + p.v, 0) / list.length;
    const xy = list.reduce((a, p) => a + (p.n - mx) * (p.v - my), 0);
    const xx = list.reduce((a, p) => a + (p.n - mx) ** 2, 0);
    const yy = list.reduce((a, p) => a + (p.v - my) ** 2, 0);
    const share = (xy * xy) / (xx * yy || 1);
    const change = (xy / (xx || 1)) * (list.at(-1)!.n - list[0]!.n);
    if (share < 0.7) return "It scatters; it does not drift through the run.";
    return `It drifts, it does not scatter: ${change < 0 ? "down" : "up"} by ${significant(Math.abs(change), 2)} over ${list.at(-1)!.n - list[0]!.n} injections.`;
  }
</script>

<section aria-label="Measures">
  <h2>Measures <span class="r">{chosen.length} of {chosen.length + offered.length}</span></h2>
  {#each chosen as q, k (q.id)}
    <p class="row">
      <span title={q.how}>{q.words}</span><span class="mut">{q.unit}</span>
      <button class="mut" title="Takes it off" aria-label="Take {q.words} off" onclick={() => put(shown.measures.filter((_, i) => i !== k))}
        >×</button
      >
    </p>
  {/each}
  <select
    class="field"
    aria-label="Add a measure"
    title="Adds a table, or a column to each"
    value=""
    onchange={(e) => {
      if (e.currentTarget.value) put([...shown.measures, e.currentTarget.value]);
      e.currentTarget.value = "";
    }}
  >
    <option value="">add a measure …</option>
    {#each offered as q (q.id)}<option value={q.id}>{q.words}{q.unit ? `, ${q.unit}` : ""}</option>{/each}
  </select>
</section>
<section aria-label="Columns">
  <h2>Columns <span class="r">{s ? s.columns.length : ""}</span></h2>
  {#each columns as id, k (id)}
    <p class="row">
      <span>{columnWords(batch, id)}</span><span class="mut"></span>
      {#if columns.length > 1 || id !== "all"}<button
          class="mut"
          title="Takes it off"
          aria-label="Take {columnWords(batch, id)} off"
          onclick={() => putColumns(columns.filter((_, i) => i !== k))}>×</button
        >{/if}
    </p>
  {/each}
  <select
    class="field"
    aria-label="Add a column"
    title="A compound, the sum of a group or of the compounds that stand here, or the largest peak"
    value=""
    onchange={(e) => {
      const id = e.currentTarget.value;
      if (id)
        putColumns([
          ...(columns.length === 1 && columns[0] === "all" && batch.version.method.compounds.some((c) => c.id === id) ? [] : columns),
          id,
        ]);
      e.currentTarget.value = "";
    }}
  >
    <option value="">add a column …</option>
    {#each offeredColumns as id (id)}<option value={id}
        >{id.startsWith("sum:") ? `sum of ${columnWords(batch, id)}` : columnWords(batch, id)}</option
      >{/each}
  </select>
</section>
<section aria-label="Injections">
  <h2>Injections</h2>
  <Choice
    label="Injections"
    options={[
      ["measured", "without blanks"],
      ["all", "all"],
      ["chosen", "chosen"],
    ]}
    value={["all", "chosen"].includes(shown.of) ? shown.of : "measured"}
    {choose}
  />
  {#if shown.of === "chosen"}
    <div class="list" role="group" aria-label="Which injections">
      {#each batch.injections as i, k (i.id)}<label class="chk"
          ><input
            type="checkbox"
            title="Whether it is looked at"
            checked={shown.injections.includes(i.id)}
            onchange={() => (shown.injections = turn(shown.injections, i.id))}
          />{k + 1}
          {i.name}</label
        >{/each}
    </div>
  {/if}
  {#if others.length}
    <button class="lnk" aria-expanded={wide} title="Looks at injections of other batches of the study too" onclick={() => (wide = !wide)}
      >with other batches <span class="mut num">{shown.batches.length || ""}</span></button
    >
    {#if wide}<div class="list" role="group" aria-label="Which batches">
        {#each others as b (b.id)}<label class="chk"
            ><input
              type="checkbox"
              title="Whether its injections are looked at too"
              checked={shown.batches.includes(b.id)}
              onchange={() => (shown.batches = turn(shown.batches, b.id))}
            />{b.name}</label
          >{/each}
      </div>{/if}
  {/if}
  <label class="by"
    >Groups
    <select
      class="field"
      title="What the statistics are over"
      value={shown.by}
      onchange={(e) => {
        shown.by = e.currentTarget.value;
        shown.keep();
      }}
    >
      {#each by as [id, word] (id)}<option value={id}>{word}</option>{/each}
    </select></label
  >
</section>
<section aria-label="Statistics">
  <h2>Statistics</h2>
  <div class="two">
    {#each statistics as [id, word] (id)}<label class="chk" title="Tells it of each group"
        ><input type="checkbox" checked={shown.statistics.includes(id)} onchange={() => tell(id)} />{word}</label
      >{/each}
    <label class="chk" title="Draws the values of each group on a line"
      ><input
        type="checkbox"
        checked={shown.strips}
        onchange={() => {
          shown.strips = !shown.strips;
          shown.keep();
        }}
      />strip of values</label
    >
    {#each [["acquired", "time acquired"], ...batch.own_columns.map((c) => [c.id, c.name])] as [id, word] (id)}<label
        class="chk"
        title="Stands beside each injection"
        ><input
          type="checkbox"
          checked={shown.beside.includes(id!)}
          onchange={() => {
            shown.beside = turn(shown.beside, id!);
            shown.keep();
          }}
        />{word}</label
      >{/each}
  </div>
</section>
{#if s && looked}
  {@const word = statistics.find(([id]) => id === looked.what)![1]}
  <section aria-label="Working">
    <h2>Working <span class="r">{word} of {s.columns[looked.c]!.name}, {looked.g.name}</span></h2>
    <p class="big">
      {looked.what === "n" ? looked.of.n : significant(valueOf(looked.of, looked.what), looked.what === "rsd" ? 2 : 5)}<span class="mut"
        >{looked.what === "rsd" ? " %" : looked.what === "n" ? "" : ` ${s.measures[looked.m]!.unit}`}</span
      >
    </p>
    <p class="formula">{formula}</p>
    {#if dots}
      <svg width="272" height="60" role="img" aria-label="The values in run order">
        {#each dots.points as p, k (k)}<circle cx={p.x} cy={p.y} r="2.2" fill="var(--ink-2)" />{/each}
        <path d="M1 46H220" stroke="var(--mist-3)" stroke-width=".8" />
        <text x="226" y="12">{significant(dots.high, 4)}</text><text x="226" y="44">{significant(dots.low, 4)}</text>
        <text x="1" y="58">run {dots.first}</text><text x="220" y="58" text-anchor="end">run {dots.last}</text>
      </svg>
      <p class="note">{dots.drift}</p>
    {/if}
  </section>
{/if}
<section aria-label="To take away">
  <p class="acts">
    <button class="btn pri" title="The tables as they stand, for a spreadsheet (Ctrl C)" onclick={take}>{copied ? "Copied" : "Copy"}</button
    >
    <a class="btn" href={file("xlsx")} download title="Full precision; means and deviations are live formulas">XLSX</a>
    <a class="btn" href={file("csv")} download title="Full precision, one table after the other">CSV</a>
    <button class="btn" title="Puts a block that tells the same on a page of the batch" onclick={intoLayout}>Into a layout</button>
  </p>
</section>

<style>
  .row {
    display: grid;
    grid-template-columns: 1fr auto 16px;
    gap: 8px;
    font-size: 12.5px;
    line-height: 23px;
    border-bottom: 1px solid var(--mist-1);
  }
  .field {
    margin-top: 4px;
    max-width: 100%;
  }
  section > .field {
    width: 100%;
  }
  .lnk {
    margin-top: 6px;
  }
  .by {
    display: flex;
    gap: 10px;
    align-items: baseline;
    font-size: 12.5px;
    margin-top: 6px;
  }
  .list {
    max-height: 168px;
    overflow: auto;
    margin-top: 4px;
    font-size: 12.5px;
  }
  .list .chk {
    display: flex;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 2px 8px;
  }
  .big {
    font: 500 26px/34px var(--f-read);
  }
  .big .mut {
    font-size: 15px;
  }
  .formula {
    font: 14px/20px var(--f-read);
    overflow-wrap: anywhere;
  }
  svg text {
    font-size: 11px;
    fill: var(--ink-3);
    font-variant-numeric: tabular-nums;
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    padding: 6px 0 12px;
  }
</style>
