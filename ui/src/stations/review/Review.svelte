<script lang="ts">
  // Everything that a person changed, by what it does to a reported number: looked at one by one, accepted or sent back, and then signed.
  import { createQuery } from "@tanstack/svelte-query";
  import { untrack } from "svelte";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import { count, missing, significant } from "../../look/number";
  import { ask } from "../../state/ask";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import type { StationProps } from "../props";
  import BeforeAfter from "./BeforeAfter.svelte";
  import { reviewing } from "./review.svelte";
  import Signing from "./Signing.svelte";
  import LookedAt from "./LookedAt.svelte";
  import { barOf, effectOf, groups, kinds, strokes, when } from "./words";

  let { batch, stale }: StationProps = $props();
  const query = createQuery(() => ask.review(batch.id, batch.revision));
  const r = $derived(query.data);
  const list = $derived(reviewing.listed(r));
  const at = $derived(reviewing.at(r));
  const names = $derived(Object.fromEntries(batch.version.method.compounds.map((c) => [c.id, c.name])));
  const accepted = $derived(r?.items.filter((i) => i.judged?.verdict === "accepted").length ?? 0);
  const back = $derived(r?.items.filter((i) => i.judged?.verdict === "sent back").length ?? 0);
  const open = $derived((r?.items.length ?? 0) - accepted - back);
  let all = $state(false);
  // The injection in the scroll is that of the change; looking at another one there leaves the list as it is.
  $effect(() => {
    const id = at?.injection_id;
    untrack(() => {
      if (id && place.query.i !== id) place.go({ query: { i: id, ...(at?.compound_id ? { c: at.compound_id } : {}) } }, false);
    });
  });
  function toPlace() {
    if (!at) return;
    const station =
      at.kind === "edit" ? "peaks" : at.kind === "setting" || at.kind === "version" ? "peaks" : at.kind === "typed" ? "batch" : "results";
    place.go({ station, query: { i: at.injection_id ?? "", c: at.compound_id ?? "" } });
  }
  function arrows(e: KeyboardEvent) {
    if (!["ArrowDown", "ArrowUp"].includes(e.key) || e.altKey || (e.target as Element).closest("input, select, textarea")) return;
    e.preventDefault();
    reviewing.along(r, e.key === "ArrowDown" ? 1 : -1);
  }
  const still = $derived(r?.items.filter((i) => !i.judged && i.reckoned && !i.effect && !i.problem) ?? []);
  $effect(() =>
    keys({
      Enter: () => r && at && !r.why_not_judge && reviewing.judge(batch, r, [at], "accepted"),
      "shift+Enter": () => r && !r.why_not_judge && reviewing.judge(batch, r, still, "accepted"),
      x: () => r && at && !r.why_not_judge && reviewing.judge(batch, r, [at], "sent back"),
      r: () => document.querySelector<HTMLTextAreaElement>("#review-remark")?.focus(),
      p: toPlace,
      c: () => at?.compound_id && place.go({ station: "curves", query: { c: at.compound_id } }),
      b: () => (reviewing.hold = true),
    }),
  );
</script>

<svelte:window
  onkeydown={arrows}
  onkeyup={(e) => e.key.toLowerCase() === "b" && (reviewing.hold = false)}
  onblur={() => (reviewing.hold = false)}
/>
<div class="stage">
  <main class="main" aria-busy={query.isFetching || stale}>
    <div class="top">
      <h1>
        Review <span class="note"
          >{#if r}{count(r.items.length, "thing")} a person changed, the largest effect first{r.prepared_by.length
              ? ` · prepared by ${r.prepared_by.join(", ")}`
              : ""}{:else}reading what was changed{/if}</span
        >
      </h1>
      <div class="tabs" role="group" aria-label="Which changes">
        {#each groups as g (g.id)}
          <button
            class:on={reviewing.group === g.id}
            aria-pressed={reviewing.group === g.id}
            title="Shows {g.word === 'all' ? 'all changes' : `changes: ${g.word}`}"
            onclick={() => (reviewing.group = g.id)}>{g.word} {r?.items.filter((i) => g.of(i)).length ?? ""}</button
          >
        {/each}
      </div>
    </div>
    {#if query.isError}<p class="att" role="alert">
        {query.error.message} <button class="lnk" title="Asks once more" onclick={() => query.refetch()}>Try again</button>
      </p>
    {:else if !r}<p class="note">Reading what was changed …</p>
    {:else if r.items.length === 0}
      <p class="says">Nobody changed anything. {count(r.results, "result")} are what version {r.version} makes of the raw data.</p>
    {:else if list.length === 0}<p class="note">None of these.</p>
    {:else}
      <table aria-label="What was changed">
        <thead
          ><tr
            ><th class="n">#</th><th class="l k">What</th><th class="l">Changed, with its reason</th><th class="l ba">Before and after</th
            ><th class="e">Largest effect, %</th><th class="l v">You</th></tr
          ></thead
        >
        <tbody>
          {#each list as i, k (i.key)}
            <tr class:on={i.key === at?.key} data-key={i.key} onclick={() => reviewing.look(i.key)}>
              <td class="n">{k + 1}</td>
              <td class="l k"
                ><svg width="14" height="10" viewBox="0 0 14 10" aria-hidden="true"><path d={strokes[i.kind]} /></svg>{kinds[i.kind]}</td
              >
              <td class="l what"
                ><button title="Looks at this change" onclick={() => reviewing.look(i.key)}
                  ><b
                    >{names[i.compound_id ?? ""] && !i.what.startsWith(names[i.compound_id ?? ""]!)
                      ? `${names[i.compound_id ?? ""]}: `
                      : ""}{i.what}</b
                  >
                  {i.where}{#if i.since}<span class="since">since it was unlocked</span>{/if}</button
                ><span class="why" title={i.why || "no reason was given"}>{i.why || "no reason"}{i.who ? ` · ${i.who}` : ""}</span></td
              >
              <td class="l ba"
                >{#if i.drawn}<BeforeAfter drawn={i.drawn} width={132} height={36} />{:else if i.kind === "notice"}<span class="note"
                    >as it was</span
                  >{:else}<span class="words" title="{i.before || 'none'} → {i.after || 'none'}"
                    ><span class="was">{i.before || "none"}</span> → <b>{i.after || "none"}</b></span
                  >{/if}</td
              >
              <td
                class="e"
                title={i.problem ||
                  (i.effect ? `${i.effect.group || names[i.effect.compound_id] || ""} in ${i.effect.of}` : "moves no reported number")}
                ><span class="pc">{effectOf(i)}</span><span class="bar"
                  >{#if i.effect}<i style:left="{50 + Math.min(0, barOf(i)) * 50}%" style:width="{Math.abs(barOf(i)) * 50}%"></i>{/if}</span
                >{#if i.reckoned && !i.effect && !i.problem}<span class="note none">no number moves</span>{/if}</td
              >
              <td class="l v"
                >{#if i.judged?.verdict === "accepted"}<span title="{i.judged.who}, {when(i.judged.at)}">✓ accepted</span
                  >{:else if i.judged}<span class="att" title="{i.judged.who}, {when(i.judged.at)}: {i.judged.remark}">↰ sent back</span
                  >{:else if i.key === at?.key}<span class="att">looking</span>{:else}<span class="note">to look at</span>{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      <p class="rest">
        Nothing else was touched by hand. {r.untouched.length === r.results ? "All" : "The other"}
        {count(r.untouched.length, "result")}
        {r.untouched.length === 1 ? "is" : "are"} what version {r.version} makes of the raw data and the run list.
        {#if r.untouched.length > 0}<button
            class="lnk"
            aria-expanded={all}
            title="Lists the results that nothing above moves"
            onclick={() => (all = !all)}
            >{all ? "Fold them" : `See ${r.untouched.length === 1 ? "it" : `all ${r.untouched.length}`}`}</button
          >{/if}
      </p>
      {#if all}
        <ul class="untouched">
          {#each r.untouched as u, k (k)}<li>
              <span>{u.group || names[u.compound_id] || u.compound_id}</span><span class="note">{u.of}</span><span class="num"
                >{u.value === null ? missing : `${significant(u.value, 4)} ${u.unit}`}</span
              >
            </li>{/each}
        </ul>
      {/if}
    {/if}
    {#if r && r.sent_back.some((s) => !s.there)}
      <p class="rest">
        Sent back, and mended or taken back since: {r.sent_back
          .filter((s) => !s.there)
          .map((s) => `${s.what} (${s.why})`)
          .join("; ")}.
      </p>
    {/if}
  </main>
  <Side>
    {#if r && at}<LookedAt {batch} {r} item={at} number={list.findIndex((i) => i.key === at.key) + 1} of={list.length} {names} />{/if}
    {#if r}<Signing {batch} {r} {open} {back} />{/if}
  </Side>
  <Foot
    hints={[
      ["↑|↓", "change to change"],
      ["Enter", "accept"],
      ["Shift Enter", "accept all that move no number"],
      ["X", "send back"],
      ["R", "remark"],
      ["P", "its place"],
      ["C", "its curve"],
      ["B", "held: before"],
    ]}>{r ? `${accepted} accepted, ${back} sent back, ${open} to look at` : ""}</Foot
  >
</div>

<style>
  .main {
    padding: 6px 16px 20px;
    overflow: auto;
  }
  .top {
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    justify-content: space-between;
    gap: 0 20px;
  }
  h1 {
    font: 500 22px/1.5 var(--f-read);
  }
  h1 .note {
    margin-left: 8px;
    font-family: var(--f-ui);
    font-weight: 400;
  }
  .tabs {
    display: flex;
    gap: 4px;
    border-bottom: 1px solid var(--mist-1);
  }
  .tabs button {
    min-height: 26px;
    padding: 0 11px;
    color: var(--ink-2);
  }
  .tabs .on {
    color: var(--ink);
    font-weight: 600;
    box-shadow: inset 0 -2px var(--ink);
  }
  table {
    width: 100%;
    table-layout: fixed;
  }
  .n {
    width: 30px;
    color: var(--ink-2);
    text-align: left;
  }
  .k {
    width: 122px;
    color: var(--ink-2);
    white-space: nowrap;
  }
  .k svg {
    display: inline-block;
    vertical-align: -1px;
    margin-right: 6px;
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.2;
  }
  th.ba,
  td.ba {
    width: 150px;
  }
  th.e,
  td.e {
    width: 168px;
  }
  .v {
    width: 96px;
    white-space: nowrap;
  }
  td {
    height: 42px;
    overflow: hidden;
    vertical-align: middle;
  }
  td.what button {
    display: block;
    min-height: 20px;
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    text-align: left;
  }
  .what b {
    font-weight: 600;
  }
  .why {
    display: block;
    color: var(--ink-2);
    font-size: 12.5px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .since {
    margin-left: 8px;
    font-size: 11.5px;
    color: var(--kaki-text);
  }
  .words {
    display: block;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .words b {
    font-weight: 600;
  }
  .was {
    color: var(--ink-2);
    border-bottom: 1px dotted var(--kaki);
  }
  td.e {
    text-align: left;
    white-space: nowrap;
  }
  th.e {
    text-align: left;
  }
  .pc {
    display: inline-block;
    width: 58px;
    text-align: right;
    font-weight: 600;
    font-variant-numeric: tabular-nums;
  }
  .bar {
    position: relative;
    display: inline-block;
    width: 88px;
    height: 12px;
    margin-left: 10px;
    vertical-align: -2px;
    background: linear-gradient(var(--mist-3), var(--mist-3)) center / 1px 100% no-repeat;
  }
  .bar i {
    position: absolute;
    top: 4px;
    height: 4px;
    min-width: 2px;
    background: var(--ink-2);
  }
  .none {
    display: none;
  }
  tr.on td {
    background: var(--row-kaki);
  }
  tr.on td:first-child {
    box-shadow: inset 3px 0 var(--kaki);
  }
  .att {
    color: var(--kaki-text);
  }
  .rest {
    margin-top: 8px;
    font-size: 13px;
    color: var(--ink-2);
  }
  .says {
    font: 16px/24px var(--f-read);
    padding-top: 8px;
  }
  .untouched {
    columns: 3 220px;
    column-gap: 24px;
    margin-top: 6px;
    font-size: 12.5px;
  }
  .untouched li {
    display: grid;
    grid-template-columns: 1fr 1fr auto;
    gap: 8px;
    break-inside: avoid;
    border-bottom: 1px solid var(--mist-1);
    padding: 2px 0;
  }
</style>
