<script lang="ts">
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Notice, Result } from "../api/client";
  import { ask } from "../state/ask";
  import { count } from "../look/number";
  import { desk } from "../state/desk.svelte";
  import { place, type Station } from "../state/place.svelte";
  import { reason } from "../state/reason.svelte";
  import Mark, { markOf } from "./Mark.svelte";

  let { batch, result, station, most = 4 }: { batch: Batch; result: Result | undefined; station?: Station; most?: number } = $props();
  let all = $state(false);

  // What a reviewer sent back wants eyes before anything else.
  const review = createQuery(() => ask.review(batch.id, batch.reviewing && !station ? batch.revision : 0));
  const back = $derived((batch.reviewing && review.data?.items.filter((i) => i.judged?.verdict === "sent back")) || []);
  const open = $derived((result?.notices ?? []).filter((n) => (!station || n.station === station) && !batch.settled.includes(n.key)));
  /** A number and its percent sign stay on one line. */
  const unbroken = (text: string) => text.replace(/(\d) %/g, "$1\u00a0%");
  /** So many of a kind are told together. */
  const many = 4;
  const words: Record<string, string> = {
    above_range: "above range",
    no_sample_amount: "no sample amount",
    no_level: "no level",
    no_name: "no name",
    internal_standard: "internal standard off",
    resolution: "resolution too low",
    saturated: "cut off at the top",
    lost_edit: "edits without their peak",
    no_fit: "no fit",
    unmeasured: "could not be measured",
    not_found: "not found",
    window_edge: "near the edge of the window",
    no_curve: "no curve",
    level_deviation: "levels off the curve",
    blank: "carried over",
    check: "checks outside their limits",
    suitability: "not suitable",
    replicates: "replicates apart",
    qualifier: "ratio off",
    condition: "conditions of the run",
    doubted: "doubtful, from trouble on the bench",
  };
  /** What notices of a kind are about; those of a field bear its name. */
  const wordsOf = (l: Line) =>
    words[l.kind] ??
    batch.version.method.fields?.find((f) => `field_${f.short}` === l.kind)?.name ??
    (l.kind.startsWith("condition") ? words["condition"]! : l.kind);
  type Line = { kind: string; notices: Notice[] };
  /** One line for each notice, or for many of one kind together, in the order in which the first of them comes. */
  const lines = $derived.by<Line[]>(() => {
    const byKind = new Map<string, Notice[]>();
    for (const n of open) byKind.set(n.kind, [...(byKind.get(n.kind) ?? []), n]);
    const list: Line[] = [];
    for (const n of open) {
      const alike = byKind.get(n.kind)!;
      if (alike.length < many || opened === n.kind) list.push({ kind: n.kind, notices: [n] });
      else if (alike[0] === n) list.push({ kind: n.kind, notices: alike });
    }
    return list;
  });
  let opened = $state("");
  const shown = $derived(all || opened ? lines : lines.slice(0, most));
  /** "above range: 148 readings of 6 compounds". */
  function together(l: Line): string {
    const of = (pick: (n: Notice) => string | undefined) => new Set(l.notices.map(pick).filter(Boolean)).size;
    const compounds = of((n) => n.compound_id);
    const injections = of((n) => n.injection_id);
    const where = injections > 0 && `in ${count(injections, "injection")}`;
    if (compounds === 0 && where && injections === l.notices.length) return where;
    const what = compounds > 0 && where ? count(l.notices.length, "reading") : count(l.notices.length, "time");
    return [what, compounds > 0 && `of ${count(compounds, "compound")}`, where].filter(Boolean).join(" ");
  }

  function follow(n: Notice) {
    place.go({
      station: n.station as Station,
      query: {
        i: n.injection_id ?? place.query.i,
        c: n.compound_id ?? place.query.c,
        ...(n.kind.startsWith("field_") ? { face: "fields" } : {}),
        ...(n.station === "traces" ? { mode: "one", at: n.at_min?.toFixed(3) } : {}),
      },
    });
  }
  async function settle(l: Line) {
    const first = l.notices[0]!;
    const why =
      l.notices.length === 1
        ? await reason.ask("Settle this notice", `${first.subject}: ${first.text}`, true)
        : await reason.ask(`Settle these ${l.notices.length} notices`, `${wordsOf(l)}: ${together(l)}`, true);
    if (why)
      await desk.settle(
        l.notices.map((n) => n.key),
        why,
      );
  }
</script>

<section aria-label="Notices">
  <h2 data-count={open.length || undefined}>Notices <span class="r">{open.length}{station ? ` on ${station}` : " in this batch"}</span></h2>
  {#if !station}
    {#each back as i (i.key)}
      <div class="ntc">
        <span class="fl" aria-hidden="true">↰</span>
        <button class="what" title="Goes to the review" onclick={() => place.go({ station: "review" })}
          ><b>Sent back by {i.judged!.who}:</b> {i.what} {i.where}. {i.judged!.remark}</button
        >
        <button class="arrow" title="Goes to the review" aria-label="Go to the review" onclick={() => place.go({ station: "review" })}
          >→</button
        >
      </div>
    {/each}
  {/if}
  {#each shown as l (l.notices[0]!.key)}
    {@const n = l.notices[0]!}
    <div class="ntc" class:know={n.weight === "know"}>
      <span class="fl"><Mark name={markOf(n.kind)} /></span>
      {#if l.notices.length > 1}
        <button class="what" title="Show each of them" onclick={() => (opened = l.kind)}><b>{wordsOf(l)}:</b> {together(l)}</button>
        <button class="settle" title="Settle all of them with one reason" aria-label="Settle all, {wordsOf(l)}" onclick={() => settle(l)}
          >settle</button
        >
      {:else}
        <button class="what" onclick={() => follow(n)} title="Goes to where this can be seen and mended"
          ><b>{n.subject}:</b> {unbroken(n.text)}</button
        >
        <button class="settle" title="Settle with a reason" aria-label="Settle {n.subject}: {n.text}" onclick={() => settle(l)}
          >settle</button
        >
      {/if}
      <button class="arrow" title="Goes to where this can be seen and mended" aria-label="Go to {n.subject}" onclick={() => follow(n)}>
        <svg
          width="11"
          height="9"
          viewBox="0 0 11 9"
          fill="none"
          stroke="currentColor"
          stroke-width="1.2"
          stroke-linecap="round"
          stroke-linejoin="round"><path d="M.8 4.5H9.6M6.4 1.2L9.8 4.5L6.4 7.8" /></svg
        >
      </button>
    </div>
  {:else}
    <p class="note">{result ? "Nothing here wants your eyes." : "Not processed yet."}</p>
  {/each}
  {#if opened}
    <button class="lnk more" onclick={() => (opened = "")} title="Shows them as one line again">together again</button>
  {:else if lines.length > most}
    <button class="lnk more" onclick={() => (all = !all)} title={all ? "Shows the first of them alone" : "Shows all of them"}
      >{all ? "fewer" : `and ${lines.length - most} more`}</button
    >
  {/if}
</section>

<style>
  .ntc {
    display: grid;
    grid-template-columns: 18px 1fr auto auto;
    gap: 2px 6px;
    padding: 6px 0 7px;
    border-bottom: 1px solid var(--mist-1);
    font-size: 12.5px;
    line-height: 1.35;
    align-items: start;
  }
  .ntc:last-of-type {
    border-bottom: 0;
  }
  .fl {
    color: var(--kaki);
    padding-top: 1px;
  }
  .know .fl {
    color: var(--ochre);
  }
  .what {
    text-align: left;
  }
  b {
    font-weight: 500;
  }
  .settle {
    font-size: 12px;
    color: var(--ink-3);
    visibility: hidden;
  }
  .ntc:hover .settle,
  .settle:focus-visible {
    visibility: visible;
  }
  .arrow {
    color: var(--ai);
    padding: 4px 0;
  }
  .more {
    font-size: 12px;
    margin-top: 5px;
  }
</style>
