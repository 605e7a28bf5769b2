<script lang="ts">
  // The scroll: all injections in run order as small ridgelines, with the internal standard's drift behind them.
  import { intake } from "../stations/batch/intake.svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Result } from "../api/client";
  import { ask } from "../state/ask";
  import { replicate, levelsOf } from "../state/desk.svelte";
  import { keys } from "../state/keys.svelte";
  import { narrow } from "../state/narrow.svelte";
  import { place } from "../state/place.svelte";
  import Glyph, { stairSteps } from "./Glyph.svelte";

  let { batch, result, index }: { batch: Batch | undefined; result: Result | undefined; index: number } = $props();

  const left = 14;
  const right = 72;
  const base = 53;
  const tallest = 34;
  let width = $state(1280);
  let kept = $state(localStorage.getItem("yugen-scroll") === "folded");
  // In a narrow window it stands folded, and U unfolds it for as long as it is wanted.
  const folded = $derived(narrow.is ? !narrow.unfolded : kept);
  const wide = $derived(folded ? 150 : 96);

  const injections = $derived(batch?.injections ?? []);
  const levels = $derived(levelsOf(batch));
  const tile = $derived(Math.max(22, Math.min(64, (width - left - right - wide) / Math.max(1, injections.length - 1))));
  const place0 = (i: number) => left + i * tile + (i > index && index >= 0 ? wide - tile : 0);
  const tileWidth = (i: number) => (i === index ? wide : tile);
  const total = $derived(left + right + Math.max(0, injections.length - 1) * tile + wide);
  const pan = $derived(total <= width ? 0 : Math.max(0, Math.min(total - width, place0(index) + wide / 2 - width / 2)));

  const ridges = createQuery(() => ask.ridges(batch?.id ?? "", intake.running ? 0 : injections.length, batch?.version.id ?? ""));
  const byId = $derived(new Map((ridges.data ?? []).map((r) => [r.injection_id, r.heights])));
  const highest = $derived(Math.max(1e-9, ...(ridges.data ?? []).map((r) => Math.max(...r.heights))));

  /** The silhouette, softened and power-scaled so that it reads as a ridge; for recognising, not measuring. */
  function ridge(i: number): string {
    const heights = byId.get(injections[i]!.id);
    if (!heights) return "";
    const own = i === index;
    const x0 = place0(i) + (own ? 3 : -1.5);
    const w = tileWidth(i) - (own ? 6 : -3);
    const b = own ? base - 4 : base;
    const soft = own ? 0 : 1;
    return heights
      .map((_, k) => {
        let sum = 0;
        let n = 0;
        for (let j = Math.max(0, k - soft); j <= Math.min(heights.length - 1, k + soft); j++) {
          sum += heights[j]!;
          n++;
        }
        const h = Math.pow(Math.max(0, sum / n) / highest, 0.55) * tallest;
        return `${k ? "L" : "M"}${(x0 + (k / (heights.length - 1)) * w).toFixed(1)} ${(b - h).toFixed(1)}`;
      })
      .join("");
  }

  const standards = $derived((batch?.version.method.compounds ?? []).filter((c) => c.role === "internal_standard"));
  /** For each internal standard, by injection, how far its response stands from its mean. */
  const drifts = $derived(
    standards
      .map((c) => ({ name: c.name, percent: (result?.injections ?? []).map((i) => i.internal_standards_percent?.[c.id] ?? null) }))
      .filter((d) => d.percent.some((p) => p !== null)),
  );
  const driftY = (percent: number) => Math.max(3, Math.min(50, 25 - percent * 1.9));
  const limit = $derived(batch?.version.method.checks.internal_standard_percent ?? 5);
  function driftPath(drift: (number | null)[]): string {
    let path = "";
    let pen = false;
    drift.forEach((p, i) => {
      if (p === null) {
        pen = false;
        return;
      }
      path += `${pen ? "L" : "M"}${(place0(i) + tileWidth(i) / 2).toFixed(1)} ${driftY(p).toFixed(1)}`;
      pen = true;
    });
    return path;
  }
  const wanted = $derived(
    new Set(
      (result?.notices ?? [])
        .filter((n) => n.weight === "decide" && n.injection_id && !batch?.settled.includes(n.key))
        .map((n) => n.injection_id),
    ),
  );

  const words = (name: string) => name.split(/[\s,;_/]+|(?<=\D)-|-(?=\D)/).filter(Boolean);
  /** How many different names have each first word; of those that many share it tells nothing. */
  const shared = $derived.by(() => {
    const names: Record<string, Set<string>> = {};
    for (const i of injections) if (i.role !== "standard") (names[words(i.name)[0] ?? ""] ??= new Set()).add(i.name);
    return names;
  });
  /** A short name: the first word, or where several names begin alike the first word in which this one differs. */
  function short(i: number): string {
    const inj = injections[i]!;
    if (inj.role === "standard" && inj.level !== null) return String(inj.level);
    const own = words(inj.name);
    const like = [...(shared[own[0] ?? ""] ?? [])].filter((n) => n !== inj.name).map(words);
    if (like.length < 3) return own[0] ?? "";
    return own.find((w, k) => !like.some((o) => o[k] === w)) ?? own.find((w, k) => like.some((o) => o[k] !== w)) ?? own[0] ?? "";
  }
  /** Replicates share one name, under the middle of their tiles; a name without room is left to the title. */
  const labels = $derived.by(() => {
    const list: { x: number; text: string; width: number }[] = [];
    for (let i = 0; i < injections.length; i++) {
      if (i === index) continue;
      const start = i;
      while (i + 1 < injections.length && i + 1 !== index && injections[i + 1]!.name === injections[i]!.name) i++;
      const x0 = place0(start);
      const x1 = place0(i) + tileWidth(i);
      const text = short(start);
      list.push({ x: (x0 + x1) / 2, text, width: text.length * 5.9 });
    }
    const own = index < 0 ? [] : [{ x: place0(index) + wide / 2, text: "", width: wide - 6 }];
    const kept: typeof list = [];
    // Where names crowd, the longer stretch keeps its name; the others have their glyph and their title.
    for (const l of list.toSorted((a, b) => b.width - a.width)) {
      if ([...kept, ...own].every((k) => Math.abs(k.x - l.x) > (k.width + l.width) / 2 + 3)) kept.push(l);
    }
    return kept;
  });

  function choose(i: number, push = true) {
    const inj = injections[Math.max(0, Math.min(injections.length - 1, i))];
    if (inj) place.go({ query: { i: inj.id } }, push);
  }
  function key(e: KeyboardEvent) {
    const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10, Home: -1e6, End: 1e6 }[e.key];
    if (step === undefined) return;
    e.preventDefault();
    choose(index + step, false);
  }
  function fold() {
    if (narrow.is) {
      narrow.unfolded = !narrow.unfolded;
      return;
    }
    kept = !kept;
    localStorage.setItem("yugen-scroll", kept ? "folded" : "open");
  }
  $effect(() => keys({ u: fold }));

  function at(e: MouseEvent): number {
    const x = e.clientX - (e.currentTarget as Element).getBoundingClientRect().left + pan;
    return injections.findIndex((_, i) => x >= place0(i) && x < place0(i) + tileWidth(i));
  }
  /** A name in little room loses its middle: its end is what tells it from the others. */
  const cut = (text: string, most: number) =>
    text.length <= most ? text : `${text.slice(0, Math.ceil(most / 2) - 1)}…${text.slice(-Math.floor(most / 2))}`;
  const title = (i: number) => `${injections[i]!.name} ${replicate(batch!, i)}`.trim();
</script>

<div
  class="scroll"
  class:folded
  bind:clientWidth={width}
  role="listbox"
  tabindex="0"
  data-own-keys
  aria-label="Injections in run order"
  aria-activedescendant={index >= 0 ? `tile-${index}` : undefined}
  onkeydown={key}
  onclick={(e) => at(e) >= 0 && choose(at(e))}
>
  {#if batch && injections.length > 0}
    <svg {width} height={folded ? 27 : 84} viewBox="{pan} {folded ? 49 : 0} {width} {folded ? 27 : 84}">
      {#if !folded}
        {#if drifts.length > 0}
          <path
            d="M{left} {driftY(limit)}H{total - right}M{left} {driftY(-limit)}H{total - right}"
            stroke="var(--moss)"
            stroke-width=".8"
            stroke-dasharray="1 4"
            opacity=".75"
          />
          {#each drifts as d, k (d.name)}
            <path d={driftPath(d.percent)} fill="none" stroke="var(--moss)" stroke-width="1.1" stroke-dasharray={["", "5 2", "2 2"][k % 3]}
              ><title>{d.name}</title></path
            >
          {/each}
        {/if}
        {#each injections as inj, i (inj.id)}
          {#if i !== index && byId.has(inj.id)}
            <path d="{ridge(i)}L{place0(i) + tileWidth(i) + 1.5} {base}L{place0(i) - 1.5} {base}Z" fill="var(--ridge)" />
            <path d={ridge(i)} fill="none" stroke="var(--ink)" stroke-width=".55" opacity=".5" />
          {/if}
        {/each}
        <path d="M{left} {base + 0.5}H{total - right}" stroke="var(--mist-3)" stroke-width=".8" />
      {/if}
      {#if index >= 0}
        <rect x={place0(index)} y="0" width={wide} height="84" fill="var(--paper)" />
        <path d="M{place0(index) + 0.5} 0V84M{place0(index) + wide - 0.5} 0V84" stroke="var(--mist-1)" />
        {#if !folded && byId.has(injections[index]!.id)}
          <path d="{ridge(index)}L{place0(index) + wide - 3} {base - 4}L{place0(index) + 3} {base - 4}Z" fill="var(--w-ai-a)" />
          <path d={ridge(index)} fill="none" stroke="var(--ink)" stroke-width="1.1" stroke-linejoin="round" />
          <path d="M{place0(index)} {base - 3.5}H{place0(index) + wide}" stroke="var(--ink)" stroke-width="1.1" />
        {/if}
        <path d="M{place0(index)} {folded ? 75 : 83}H{place0(index) + wide}" stroke="var(--kaki)" stroke-width="2.5" />
      {/if}
      {#if !folded}
        {#each drifts.flatMap((s) => s.percent.map((d, i) => ({ d, i, key: `${s.name} ${i}` }))) as { d, i, key } (key)}
          {#if d !== null}
            {#if Math.abs(d) > limit}
              <circle
                cx={place0(i) + tileWidth(i) / 2}
                cy={driftY(d)}
                r="3.4"
                fill="var(--paper-2)"
                stroke="var(--kaki)"
                stroke-width="1.5"
              />
            {/if}
            <circle cx={place0(i) + tileWidth(i) / 2} cy={driftY(d)} r="1.25" fill={Math.abs(d) > limit ? "var(--kaki)" : "var(--moss)"} />
          {/if}
        {/each}
      {/if}
      {#each injections as inj, i (inj.id)}
        <g
          id="tile-{i}"
          role="option"
          aria-selected={i === index}
          aria-label={title(i)}
          style="color: var({wanted.has(inj.id) ? '--kaki' : i === index ? '--ink' : '--ink-2'})"
        >
          <title>{title(i)}</title>
          <rect x={place0(i)} y="0" width={tileWidth(i)} height="84" fill="transparent" />
          <g transform="translate({folded && i === index ? place0(i) + 14 : place0(i) + tileWidth(i) / 2} 62)"
            ><Glyph inline role={inj.role} steps={stairSteps(inj.level, levels)} /></g
          >
        </g>
      {/each}
      {#if folded && index >= 0}
        <text class="sn on" x={place0(index) + 26} y="66">{cut(title(index), 20)}</text>
      {/if}
      {#if !folded}
        {#each labels as l (l.x)}<text class="sn" x={l.x} y="79" text-anchor="middle">{l.text}</text>{/each}
        {#if index >= 0}
          <text class="sn on" x={place0(index) + wide / 2} y="79" text-anchor="middle">{cut(title(index), 17)}</text>
        {/if}
        {#if drifts.length > 0}
          <text class="sn moss" x={total - right + 4} y={driftY(limit) + 4}>+{limit} %</text>
          <text class="sn moss" x={total - right + 4} y={driftY(-limit) + 4}>−{limit} %</text>
          <text class="sn" x={total - right + 14} y="62">int. std,</text>
          <text class="sn" x={total - right + 14} y="76">run drift</text>
        {/if}
      {/if}
    </svg>
  {:else}
    <p class="note none">{batch ? "Injections appear here in run order." : ""}</p>
  {/if}
</div>

<style>
  .scroll {
    background: var(--paper-2);
    border-bottom: 1px solid var(--mist-1);
    height: 85px;
    overflow: hidden;
    outline-offset: -2px;
    cursor: pointer;
  }
  .scroll.folded {
    height: 28px;
  }
  .none {
    padding: 30px 16px;
  }
  .sn {
    font-size: 11px;
    fill: var(--ink-3);
  }
  .sn.on {
    fill: var(--ink);
    font-weight: 600;
  }
  .sn.moss {
    fill: var(--moss);
  }
</style>
