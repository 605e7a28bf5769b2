<script lang="ts">
  // What is in the batch, without being told: stretches of the run over all samples, each resolved into compounds; and one table of compounds against samples.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch } from "../../../api/client";
  import Choice from "../../../parts/Choice.svelte";
  import Columns from "../../../parts/Columns.svelte";
  import { count, fixed, missing, significant } from "../../../look/number";
  import { ask, queries } from "../../../state/ask";
  import { keys } from "../../../state/keys.svelte";
  import { underway } from "../../../state/underway.svelte";
  import Curves from "./Curves.svelte";
  import Ruler from "./Ruler.svelte";
  import Sticks from "./Sticks.svelte";
  import { hand, whole } from "./whole.svelte";

  let { batch }: { batch: Batch } = $props();
  /** The job may be stopped, and was begun in whatever window. */
  const working = $derived(underway.live.some((j) => j.kind === "resolve" && j.batch_id === batch.id) || whole.asked === batch.id);
  const query = createQuery(() => ({
    ...ask.resolving(batch.id, batch.revision, whole.hits),
    refetchInterval: () => (working ? 600 : false),
  }));
  const w = $derived(query.data);
  const done = $derived(w?.stretches.filter((s) => s.state === "done" || s.state === "failed").length ?? 0);
  const stretch = createQuery(() => ask.resolvedStretch(batch.id, batch.revision, whole.stretch));
  const d = $derived(whole.stretch >= 0 ? stretch.data : undefined);
  const standard = $derived(w ? whole.standard(batch, w) : undefined);
  /** What the last stretch gave is read when the job has ended, however it did. */
  let was = false;
  $effect(() => {
    if (was && !working) void queries.invalidateQueries({ queryKey: ["resolving"] });
    was = working;
  });
  /** A stretch is looked at as soon as one is done. */
  $effect(() => {
    if (w && (whole.stretch < 0 || whole.stretch >= w.stretches.length)) {
      const first = w.stretches.findIndex((s) => s.state === "done");
      if (first >= 0) whole.choose(first);
    }
  });
  const rows = $derived(w?.rows ?? []);
  const row = $derived(rows.findIndex((r) => r.stretch === whole.stretch && r.component === whole.component));
  const most = $derived(w ? Math.max(1e-12, ...rows.flatMap((r) => whole.amounts(batch, w, r).map((v) => v ?? 0))) : 1);
  const tone = (v: number | null) => (v === null ? 0 : Math.min(0.42, 0.03 + 0.39 * Math.pow(v / most, 0.5)));
  function step(by: number) {
    if (!w?.stretches.length) return;
    whole.choose(Math.max(0, Math.min(w.stretches.length - 1, whole.stretch + by)));
  }
  function along(by: number) {
    const r = rows[Math.max(0, Math.min(rows.length - 1, row + by))];
    if (r) whole.choose(r.stretch, r.component);
  }
  const chosen = $derived(rows[row]);
  function arrows(e: KeyboardEvent) {
    if ((e.key === "ArrowDown" || e.key === "ArrowUp") && !(e.target as Element).closest("input, select, textarea, [role=slider]")) {
      e.preventDefault();
      along(e.key === "ArrowDown" ? 1 : -1);
    }
  }
  $effect(() =>
    keys({
      "]": () => step(1),
      "[": () => step(-1),
      x: () => chosen && void whole.aside(batch.id, !chosen.aside),
      Enter: () => chosen && !chosen.confirmed && void whole.confirm(chosen.name),
    }),
  );
</script>

<svelte:window onkeydown={arrows} />
{#if query.isError}<div class="empty" role="alert">{query.error.message}</div>
{:else if !w}<div class="empty">Laying the runs over each other …</div>
{:else if w.overlay.length === 0}<div class="empty">
    There is no sample with spectra. Give injections the role sample at the Batch station.
  </div>
{:else}
  <p class="line">
    <span><b>{count(w.stretches.length, "stretch", "stretches")}</b>, {w.by_hand ? "cut by hand" : "cut where nothing elutes"}</span>
    <span class="r"
      >{#if done === w.stretches.length}all resolved, {count(rows.length, "compound")}
      {:else if working}{done} of {w.stretches.length} resolved, {count(rows.length, "compound")} so far
      {:else}<button
          class="btn pri"
          title="Resolves every stretch over all samples; it can be stopped at the foot"
          onclick={() => whole.run(batch.id)}>{done ? "Resolve the rest" : "Resolve them"}</button
        >{/if}</span
    >
  </p>
  <Ruler {w} batch={batch.id} />
  {#if d && d.components.length}
    {@const light = d.components[0]!.spectrum.length > 60 && Number(d.components[0]!.spectrum[0]?.[0]) > 150}
    <div class="three">
      <section aria-label="As measured">
        <h2>As measured <span class="note">{d.injections.length} injections</span></h2>
        <Curves
          label="Total signal"
          times={d.times_min}
          lines={d.measured}
          tall={Math.max(120, 62 * d.components.length) - 40}
          axis={false}
        />
        <div class="part">
          <Curves label="What is left, in what noise would leave" times={d.times_min} lines={d.rest} as="rest" tall={48} least={3} />
          <span class="tag">left over: up to {significant(Math.max(0, ...d.rest.flat()), 2)} × noise</span>
        </div>
      </section>
      <section aria-label="Resolved">
        <h2>Resolved <span class="note">how much of each</span></h2>
        {#each d.components as c, k (k)}
          <button
            class="part"
            class:on={k === whole.component}
            title="Looks at this component"
            onclick={() => whole.choose(whole.stretch, k)}
          >
            <Curves
              label="Component {k + 1}"
              times={d.times_min}
              lines={c.profiles}
              as={hand(k, c.background)}
              axis={k === d.components.length - 1}
              tall={k === d.components.length - 1 ? 62 : 50}
            />
            <span class="tag">{c.background ? "background" : fixed(c.apex_min, 2)}</span>
          </button>
        {/each}
      </section>
      <section aria-label="Their spectra">
        <h2>Their spectra <span class="note">proposed name, match</span></h2>
        {#each d.components as c, k (k)}
          <div class="part">
            <Sticks label="Spectrum of component {k + 1}" peaks={c.spectrum} as={hand(k, c.background)} {light} />
            <span class="tag"
              >{c.background ? "background" : c.hits[0] ? `${c.hits[0].name}? ${c.hits[0].forward.toFixed(0)}` : "nothing like it"}</span
            >
          </div>
        {/each}
      </section>
    </div>
  {:else if d}<p class="note pad">{d.says}</p>
  {:else if whole.stretch >= 0 && stretch.isError}<p class="att pad" role="alert">{stretch.error.message}</p>{/if}
  {#if rows.length}
    <div class="bar">
      <h2>Compounds</h2>
      <span class="note"
        >mean of the injections of each sample{whole.by === "total"
          ? ", % of the total"
          : whole.by === "none" || !standard
            ? `, ${w.unit}`
            : ""}</span
      >
      <span class="r">
        <Choice
          label="Amounts"
          options={[
            ...(standard ? ([["standard", `÷ ${standard.name}`]] as ["standard", string][]) : []),
            ["total", "of the total"],
            ["none", "areas"],
          ]}
          value={whole.by === "standard" && !standard ? "none" : whole.by}
          choose={(v) => (whole.by = v)}
        />
        <button
          class="lnk"
          aria-pressed={whole.uncertain}
          title="Beside each amount its expanded uncertainty (k = 2), %: of noise, or of what injections of a sample differ by"
          onclick={() => (whole.uncertain = !whole.uncertain)}>± %</button
        >
        <Choice
          label="Hits of each"
          options={[
            ["1", "one name"],
            ["2", "2"],
            ["3", "3"],
            ["5", "5"],
          ]}
          value={String(whole.hits)}
          choose={(v) => (whole.hits = Number(v))}
        />
        {#each ["csv", "xlsx"] as as (as)}<a
            class="lnk"
            title="The areas as {as.toUpperCase()}, without what is left out"
            href="/api/batches/{batch.id}/resolved.{as}"
            download>{as.toUpperCase()}</a
          >{/each}
      </span>
    </div>
    <Columns stay={3} at={4} class="matrix">
      <table aria-label="Compounds of the whole batch">
        <thead
          ><tr
            ><th>RT, min</th><th>index</th><th class="l">Compound</th><th>match</th>{#each w.samples as s (s)}<th class="s" title={s}
                >{s}</th
              >{/each}</tr
          ></thead
        >
        <tbody>
          {#each rows as r, k (`${r.stretch}-${r.component}`)}
            <tr class:on={k === row} class:gone={r.aside}>
              <td>{fixed(r.apex_min, 2)}</td><td>{r.index === null ? missing : r.index.toFixed(0)}</td>
              <td class="l"
                ><button title={r.doubts.join(" ") || "Looks at its stretch"} onclick={() => whole.choose(r.stretch, r.component)}
                  >{#if r.doubts.length}<span class="att">△ </span>{/if}{#if r.confirmed}<b>{r.name}</b
                    >{:else if r.name}{r.name}?{:else}<span class="mut">unknown</span>{/if}</button
                >{#each r.hits.slice(1) as h (h.name)}<span class="more">or {h.name} <span class="num">{h.match.toFixed(0)}</span></span
                  >{/each}</td
              >
              <td>{r.match === null ? missing : r.match.toFixed(0)}</td>
              {#each whole.amounts(batch, w, r) as v, n (n)}{@const u = v === null ? null : whole.uncertainty(batch, w, r, n)}<td
                  class="v"
                  style:--tone="{tone(v) * 100}%"
                  title={u === null ? "It does not stand out of noise" : `± ${significant(100 * u, 2)} % (k = 2)`}
                  >{v === null ? missing : significant(v, 3)}{#if whole.uncertain && u !== null}<span class="more"
                      >± {significant(100 * u, 2)} %</span
                    >{/if}</td
                >{/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </Columns>
  {/if}
{/if}

<style>
  .line,
  .bar {
    display: flex;
    gap: 8px;
    align-items: baseline;
    padding: 4px 16px;
    font-size: 12.5px;
    flex: none;
  }
  .line b {
    font-weight: 500;
  }
  .r {
    margin-left: auto;
    display: flex;
    gap: 12px;
    align-items: baseline;
  }
  .three {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 22px;
    padding: 2px 16px 4px;
    flex: none;
    border-top: 1px solid var(--kaki);
  }
  .three h2 {
    white-space: nowrap;
  }
  .part {
    position: relative;
    display: block;
    width: 100%;
    text-align: left;
  }
  .part.on {
    background: var(--row-kaki);
  }
  .tag {
    position: absolute;
    right: 4px;
    top: 2px;
    font-size: 12px;
    color: var(--ink-2);
  }
  .pad {
    padding: 8px 16px;
  }
  td.v {
    background: color-mix(in oklab, var(--ai) var(--tone), transparent);
    min-width: 58px;
  }
  td.l button {
    text-align: left;
    white-space: nowrap;
    min-height: 24px;
  }
  .more {
    display: block;
    font-size: 12px;
    line-height: 15px;
    color: var(--ink-2);
    white-space: nowrap;
  }
  th.s {
    max-width: 84px;
    white-space: normal;
    line-height: 15px;
  }
  tr.gone td {
    text-decoration: line-through;
    color: var(--ink-3);
  }
  tr.on td:first-child {
    box-shadow: inset 3px 0 var(--kaki);
  }
</style>
