<script lang="ts">
  // A small batch on one page: small live pieces of the ordinary stations, with what is proposed dotted until it is kept.
  import type { Batch, WholeWay } from "../../../api/client";
  import { count, significant } from "../../../look/number";
  import { keys } from "../../../state/keys.svelte";
  import { place, type Station } from "../../../state/place.svelte";
  import Derivation from "../../results/Derivation.svelte";
  import WayCurve from "./WayCurve.svelte";
  import WayFiles from "./WayFiles.svelte";
  import WayPeak from "./WayPeak.svelte";
  import { way } from "./way.svelte";

  let { batch, whole }: { batch: Batch; whole: WholeWay } = $props();
  const unit = $derived(batch.injections[0]?.unit ?? "");
  const proposed = (...keys: string[]) => whole.proposals.some((p) => keys.includes(p.key));
  const sample = $derived(whole.rows.find((r) => r.role === "sample"));
  const chosen = $derived(whole.proposals.find((p) => p.key === way.selected));
  function step(by: number) {
    const at = whole.proposals.findIndex((p) => p.key === way.selected);
    way.selected = whole.proposals[Math.max(0, Math.min(whole.proposals.length - 1, at < 0 ? 0 : at + by))]?.key ?? "";
  }
  $effect(() =>
    keys({
      "[": () => step(-1),
      "]": () => step(1),
      Enter: () => chosen && way.keep(batch, whole, [chosen.key]),
      "shift+Enter": () => void way.keep(batch, whole, []),
      x: () => chosen && way.refuse(batch, [chosen.key]),
      b: () => (way.asCame = true),
      Escape: () => (way.selected = ""),
    }),
  );
</script>

<svelte:window onkeyup={(e) => e.key.toLowerCase() === "b" && (way.asCame = false)} />

{#snippet head(word: string, is: string, station: Station)}
  <div class="cap">
    <h2>{word}</h2>
    {#if is}<span class="note dotted">{is} proposed</span>{/if}
    <button class="lnk r" title="Goes to {station}" onclick={() => place.go({ station })}
      >{station[0]!.toUpperCase() + station.slice(1)}</button
    >
  </div>
{/snippet}

<div
  class="way"
  role="presentation"
  onkeydown={(e) => {
    if (e.key !== "Enter" || !e.shiftKey || !(e.target as Element).matches("input, select")) return;
    e.preventDefault();
    (e.target as HTMLElement).blur();
    void way.keep(batch, whole, []);
  }}
>
  <p class="lede">
    {#if whole.concentration !== null && sample}
      {sample.file.replace(/\.[^.]*$/, "")} reads
      <b class:dotted={whole.proposals.length > 0}
        >{significant(whole.concentration, 3)}{whole.half_width ? ` ± ${significant(whole.half_width, 2)}` : ""} {whole.unit}</b
      >
      as measured{whole.compound ? ` of ${whole.compound}` : ""}.
    {:else}{count(batch.injections.length, "file")}, as they came.{/if}
    {#if whole.asked.length > 0}<span class="sec"
        >Only you know {whole.asked.map((q) => q.text[0]!.toLowerCase() + q.text.slice(1)).join(", and ")}.</span
      >{/if}
  </p>
  <div class="grid">
    <section aria-label="Files">
      {@render head("Files", proposed("roles") ? "roles, levels" : proposed("levels") ? "levels" : "", "traces")}
      <WayFiles {batch} {whole} {unit} />
    </section>
    <section aria-label="Peak">
      {@render head("The peak all share", proposed("peak") ? "peak" : "", "peaks")}
      <WayPeak {batch} {whole} keep={() => void way.keep(batch, whole, ["peak"])} />
    </section>
    <section aria-label="Curve">
      {@render head("Curve", proposed("line") ? "line" : "", "curves")}
      <WayCurve {whole} {unit} />
    </section>
    <section aria-label="Reading">
      {@render head("Reading", proposed("amounts") ? "as measured" : "", "results")}
      {#if whole.working}<Derivation working={whole.working} />
      {:else}<p class="note">A reading comes with the curve{sample ? "" : ", for a file whose role is sample"}.</p>{/if}
    </section>
  </div>
</div>

<style>
  .way {
    overflow: auto;
    min-height: 0;
    padding: 0 16px 12px;
  }
  .lede {
    padding-bottom: 6px;
  }
  .lede b {
    font-weight: 500;
  }
  .grid {
    display: grid;
    grid-template-columns: minmax(0, 10fr) minmax(0, 12fr);
    gap: 10px 28px;
  }
  @container main (max-width: 760px) {
    .grid {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  section {
    min-width: 0;
  }
  .cap {
    display: flex;
    align-items: baseline;
    gap: 12px;
    border-top: 1px solid var(--mist-1);
    padding: 6px 0 2px;
  }
  .cap .r {
    margin-left: auto;
    font-size: 12px;
    min-height: 24px;
  }
  .dotted {
    text-decoration: underline dotted var(--ai) 1.5px;
    text-underline-offset: 3px;
  }
</style>
