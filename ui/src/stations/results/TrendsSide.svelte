<script lang="ts">
  // The picked injection in all charts, and by which rules they are judged.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Compound, TrendChart } from "../../api/client";
  import { fileName, save } from "../../plot/picture";
  import { ask } from "../../state/ask";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { ruleWords, trends } from "./trends.svelte";

  let { batch, compound }: { batch: Batch; compound: Compound | undefined } = $props();
  const query = createQuery(() => ask.trends(batch.id, batch.revision, trends.asked(compound?.id ?? "")));
  const marks = $derived((query.data?.marks ?? []).filter((m) => m.id));
  const styles = createQuery(() => ask.figureStyles());
  let says = $state("");
  let field = $state<HTMLInputElement>();
  async function mark() {
    if (!first || !says.trim()) return;
    await trends.mark(batch.id, first.injection_id, says);
    if (!trends.trouble) says = "";
  }
  $effect(() => keys({ m: () => setTimeout(() => field?.focus(), 30) }));
  const file = (as: string) =>
    `/api/batches/${batch.id}/trends.${as}?${new URLSearchParams({ ...trends.asked(compound?.id ?? ""), style: trends.kept.style }).toString()}`;
  /** As points, at 600 to the inch of its true size. */
  async function png() {
    const image = new Image();
    image.src = URL.createObjectURL(new Blob([await (await fetch(file("svg"))).text()], { type: "image/svg+xml" }));
    await image.decode();
    const scale = 600 / 96;
    const canvas = document.createElement("canvas");
    canvas.width = Math.round(image.naturalWidth * scale);
    canvas.height = Math.round(image.naturalHeight * scale);
    canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
    URL.revokeObjectURL(image.src);
    canvas.toBlob((blob) => blob && save(blob, fileName(`${batch.name}, trends`, "png")), "image/png");
  }
  function setLimit(c: TrendChart, which: "low" | "high", text: string) {
    const v = text.trim() === "" ? null : Number(text.replace(",", ".").replace("−", "-"));
    if (v !== null && !Number.isFinite(v)) {
      trends.trouble = `“${text}” is no number.`;
      return;
    }
    const own = c.source.startsWith("set by");
    const low = which === "low" ? v : own ? c.low : null;
    const high = which === "high" ? v : own ? c.high : null;
    void trends.limit(batch.id, c.quantity.id, compound?.name ?? "", low, high);
  }
  const first = $derived(trends.points[0]?.point);
  const toggle = (rule: string) =>
    trends.set({ rules: trends.kept.rules.includes(rule) ? trends.kept.rules.filter((r) => r !== rule) : [...trends.kept.rules, rule] });
</script>

<section aria-label="The picked point">
  <h2>{first ? first.name : "Pick a point"} <span class="r">{first ? `run ${first.number}` : ""}</span></h2>
  {#if first}
    <p class="note">
      {first.batch}{first.at
        ? `, ${new Date(first.at).toLocaleString("en-GB", { day: "numeric", month: "short", year: "numeric", hour: "2-digit", minute: "2-digit", timeZone: "UTC" })}`
        : ""}{first.here ? ", this batch" : ""}
    </p>
    {#each trends.points as p (p.words)}
      <p class="fact">
        <span>{p.words}</span><b class="num">{p.point.shown}</b>
        {#if p.point.breaks.length}<span class="att wide">{p.point.breaks.map((b) => ruleWords[b]).join(", ")}</span>{/if}
      </p>
    {/each}
    <button
      class="btn"
      title="Goes to its chromatogram"
      onclick={() => place.go({ batch: first.batch_id, station: "peaks", query: { i: first.injection_id } })}
      >Its peak <kbd>Enter</kbd></button
    >
  {:else}<p class="note">Its values stand here, and its chromatogram is one press away.</p>{/if}
</section>
<section aria-label="Rules">
  <h2>Rules</h2>
  {#each Object.entries(ruleWords) as [rule, words] (rule)}
    <label class="chk"
      ><input
        type="checkbox"
        title="Whether {words} is marked"
        checked={trends.kept.rules.includes(rule)}
        onchange={() => toggle(rule)}
      />{words}</label
    >
  {/each}
  <p class="note">
    Limits are those of the method or the field; where there are none, mean ± 3 SD by moving ranges of batches before this one, of eight
    values at least.
  </p>
</section>
<section aria-label="Limits set here">
  <h2>Limits <span class="r">Shift drag sets them</span></h2>
  {#each trends.charts as c (c.quantity.id)}
    <p class="limit">
      <span title={c.source || "none"}>{c.quantity.words}</span>
      {#each ["low", "high"] as const as which (which)}<input
          class="field num"
          aria-label="{c.quantity.words}, {which} limit"
          title={c.source ? `Now ${c.source}` : "No limit"}
          placeholder={c[which] === null ? "–" : String(Number(c[which].toPrecision(4)))}
          value={c.source.startsWith("set by") && c[which] !== null ? c[which] : ""}
          onchange={(e) => setLimit(c, which, e.currentTarget.value)}
        />{/each}
    </p>
  {/each}
</section>
<section aria-label="Marks">
  <h2>Marks <span class="r">what changed when</span></h2>
  {#each marks as m (m.id)}<p class="fact">
      <span>{m.says}</span><button
        class="mut"
        title="Takes the mark away"
        aria-label="Take {m.says} away"
        onclick={() => m.id && void trends.unmark(batch.id, m.id)}>×</button
      >
    </p>{/each}
  {#if first}<form
      class="acts"
      onsubmit={(e) => {
        e.preventDefault();
        void mark();
      }}
    >
      <input
        class="field"
        bind:this={field}
        bind:value={says}
        maxlength="120"
        title="What was changed before {first.name} (M)"
        placeholder="new column, lamp …"
      />
      <button class="btn" disabled={!says.trim()} title="Marks it before {first.name}">Mark</button>
    </form>
  {:else}<p class="note">Pick a point to say what was changed before it. Another method or setting is marked by itself.</p>{/if}
</section>
<section aria-label="Picture">
  <h2>Picture</h2>
  <select
    class="field"
    aria-label="Style"
    title="How the figure is drawn"
    value={trends.kept.style}
    onchange={(e) => trends.set({ style: e.currentTarget.value })}
  >
    {#each styles.data ?? [] as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
  </select>
  <p class="acts">
    <button class="lnk" title="Shows it at its true size (Esc goes back)" onclick={() => (trends.figure = !trends.figure)}
      >{trends.figure ? "back to the charts" : "look at it"}</button
    >
    <a class="lnk" href={file("svg")} download title="As lines; text stays text, and the faces go with it">SVG</a>
    <a class="lnk" href={file("pdf")} download title="As lines, of its true size">PDF</a>
    <button class="lnk" title="As points, 600 to the inch" onclick={() => void png()}>PNG</button>
  </p>
</section>

<style>
  .fact {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 8px;
    font-size: 12.5px;
    line-height: 21px;
    border-bottom: 1px solid var(--mist-1);
  }
  .limit {
    display: grid;
    grid-template-columns: 1fr 76px 76px;
    gap: 8px;
    font-size: 12.5px;
    align-items: baseline;
  }
  form .field {
    flex: 1;
    min-width: 0;
  }
  .wide {
    grid-column: 1 / -1;
  }
  .chk {
    display: flex;
    font-size: 12.5px;
    line-height: 21px;
  }
  .acts {
    display: flex;
    gap: 12px;
    font-size: 12.5px;
  }
</style>
