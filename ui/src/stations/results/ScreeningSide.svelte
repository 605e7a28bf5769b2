<script lang="ts">
  // What speaks for and against the chosen compound in the chosen sample, to be looked at: traces, spectra, ratios, each with its limits.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, ScreenEvidence, ScreenMark } from "../../api/client";
  import { significant } from "../../look/number";
  import { ask } from "../../state/ask";
  import { place } from "../../state/place.svelte";
  import EvidenceMark from "./EvidenceMark.svelte";
  import EvidencePlot from "./EvidencePlot.svelte";
  import ScreeningRules from "./ScreeningRules.svelte";
  import { clear, kinds, said, screening, words } from "./screening.svelte";

  let { batch }: { batch: Batch } = $props();
  const query = createQuery(() => ask.screening(batch.id, batch.revision));
  const s = $derived(query.data);
  const at = $derived(screening.at(s));
  const injection = $derived(screening.injection || at?.cell.evidence[at.cell.shown]?.injection_id || "");
  const evidence = createQuery(() => ask.screenEvidence(batch.id, batch.revision, injection, at?.compound ?? ""));
  const e = $derived(evidence.data);
  const others = $derived(at?.cell.evidence.filter((o) => o.injection_id !== injection) ?? []);
  const number = (id: string) => batch.injections.findIndex((i) => i.id === id) + 1;
  const of = (kind: ScreenMark["kind"]) => e?.evidence.marks.filter((m) => m.kind === kind) ?? [];
  const share = (p: ScreenEvidence["own"], top: number) => p.times_min.map((t, k): [number, number] => [t, (100 * p.values[k]!) / top]);
  const top = $derived(Math.max(1e-12, ...(e?.own.values ?? [])));
  const decision = $derived(at?.cell.decision);
</script>

{#snippet head(kind: ScreenMark["kind"], m: ScreenMark)}
  <p class="mark" class:out={!m.inside}>
    <b>{kinds[kind]}</b>
    <EvidenceMark mark={m} tells={false} /><span class="num"
      >{said(m)}{m.signal_to_noise ? `, S/N ${significant(m.signal_to_noise, 2)}` : ""}</span
    >
  </p>
{/snippet}

<section aria-label="Evidence">
  <h2>
    Evidence <span class="r"
      >{#if at}{at.sample}, {number(injection)}{#each others as o (o.injection_id)}<span>&nbsp;· </span><button
            class="lnk"
            title="Shows the evidence of this injection"
            onclick={() => (screening.injection = o.injection_id)}>{number(o.injection_id)}</button
          >{/each}{/if}</span
    >
  </h2>
  {#if !s || !at}<p class="note">Choose a cell to see what speaks for it.</p>
  {:else if !e}<p class="note">Reading the evidence …</p>
  {:else}
    <p class="what">{at.name}</p>
    <p class="says">{e.says}</p>
    {#if decision}<p class="note" class:att={at.cell.stale}>
        {at.cell.stale
          ? `Was ${words[decision.word || "nothing"]}, by version ${decision.version}; the evidence is another now.`
          : `${words[decision.word || "nothing"]}, said ${decision.by}${decision.why ? `: ${decision.why}` : ""}`}
        <button class="lnk" title="Open again, as if nobody had said anything" onclick={() => screening.say(s, "")}>take it back</button>
      </p>{/if}
    <p class="acts">
      <button class="btn pri" title="It is in there (Enter)" onclick={() => screening.say(s, "present")}>Present <kbd>Enter</kbd></button>
      <button class="btn" title="It is not in there; the record says why (X)" onclick={() => screening.say(s, "not_present")}
        >Not present <kbd>X</kbd></button
      >
    </p>
    <p class="note">
      {e.evidence.found && !clear(at.cell) ? "Not all evidence is inside: either choice asks for a reason. Or" : "Or"}
      <button class="lnk" title="On the list to inject again (Q)" onclick={() => screening.say(s, "again")}
        >inject again <kbd>Q</kbd></button
      >
    </p>
    {#each of("retention") as m (m.kind)}{@render head("retention", m)}{/each}
    <EvidencePlot
      label="Trace of {at.name}"
      unit="min"
      from={e.from_min}
      to={e.to_min}
      band={of("retention").map((m): [number, number] => [m.low!, m.high!])[0]}
      lines={[
        { points: share(e.standard, top), as: "reference", name: e.standard_in ? `${e.standard_in}` : "" },
        { points: share(e.own, top), as: "own", name: e.channel },
      ]}
    />
    {#each of("spectrum") as m (m.kind)}{@render head("spectrum", m)}{/each}
    {#if e.spectrum.length}
      <EvidencePlot
        label="Spectrum of {at.name}"
        unit={e.kind === "mass" ? "m/z" : "nm"}
        sticks={e.kind === "mass"}
        lines={[
          { points: e.reference.map((p): [number, number] => [p[0]!, p[1]!]), as: "reference", name: e.evidence.against ?? "" },
          { points: e.spectrum.map((p): [number, number] => [p[0]!, p[1]!]), as: "own", name: "" },
        ]}
      />
    {:else if e.evidence.found}<p class="note">There are no spectra of this injection to compare.</p>{/if}
    {#each of("ratio") as m, k (k)}
      {@render head("ratio", m)}
      {@const ion = e.ions.find((o) => o.of === m.of)}
      {#if ion}
        {@const highest = Math.max(1e-12, ...ion.trace.values, ...ion.expected.values)}
        <EvidencePlot
          label="Ratio of {ion.of}"
          unit="min"
          from={e.from_min}
          to={e.to_min}
          lines={[
            { points: share(ion.expected, highest), as: "reference", name: "as it should be" },
            { points: share(ion.trace, highest), as: "own", name: ion.of },
          ]}
        />
      {/if}
    {/each}
    {#each of("signal_to_noise") as m (m.kind)}{@render head("signal_to_noise", m)}{/each}
    <p class="fact">
      <span>About</span><span class="num"
        >{e.evidence.amount === null ? "no amount" : `${significant(e.evidence.amount, 3)} ${e.limit_unit}`}{e.limit
          ? `, limit ${significant(e.limit, 3)}`
          : ""}</span
      >
    </p>
    {#if e.standard_in}<p class="fact">
        <span>Standard near in the run</span>
        <button
          class="lnk"
          title="Its peak"
          onclick={() => place.go({ station: "peaks", query: { i: e.evidence.standard!, c: e.compound_id } })}
          >{e.standard_in}, {number(e.evidence.standard ?? "")}</button
        >
      </p>{/if}
  {/if}
</section>
{#if s}<ScreeningRules {batch} rules={s.rules} />{/if}

<style>
  .what {
    font: 500 19px/24px var(--f-read);
  }
  .says {
    font: 15px/20px var(--f-read);
    margin-bottom: 6px;
  }
  .acts {
    display: flex;
    gap: 8px;
    margin: 6px 0;
    flex-wrap: wrap;
  }
  .mark {
    display: flex;
    gap: 6px;
    align-items: center;
    margin-top: 8px;
    font-size: 12.5px;
    flex-wrap: wrap;
  }
  .mark b {
    font-weight: 500;
  }
  .mark .num {
    margin-left: auto;
  }
  .mark.out {
    color: var(--kaki-text);
  }
  .fact {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    border-top: 1px solid var(--mist-1);
    padding: 3px 0;
    font-size: 12.5px;
  }
</style>
