<script lang="ts">
  // One injection with everything that was recorded meanwhile: was the run sound where the peaks elute?
  import { createQueries, createQuery } from "@tanstack/svelte-query";
  import type { Trace } from "../../api/client";
  import { fixed, significant } from "../../look/number";
  import ChannelChoice from "../../parts/ChannelChoice.svelte";
  import Choice from "../../parts/Choice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Chromatogram from "../../plot/Chromatogram.svelte";
  import Lanes from "../../plot/Lanes.svelte";
  import LabelMenu from "../../plot/LabelMenu.svelte";
  import Minimap from "../../plot/Minimap.svelte";
  import { valueAt } from "../../plot/thin";
  import { Window } from "../../plot/window.svelte";
  import { ask } from "../../state/ask";
  import { replicate, traced } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { signals } from "../../state/signals.svelte";
  import type { StationProps } from "../props";
  import Behind from "./Behind.svelte";
  import { modeWords, nextMode, setMode } from "./modes";
  import SignalList from "./SignalList.svelte";
  import Views from "./Views.svelte";
  import SpectrumHere from "./SpectrumHere.svelte";
  import Sound from "./Sound.svelte";

  let { batch, result, index, stale, channel }: StationProps = $props();
  const injection = $derived(batch.injections[index]);
  const injected = $derived(result?.injections[index]);
  const unit = $derived(injected?.unit || injection?.unit || "signal");
  const trace = createQuery(() => ask.trace(batch.id, traced(injection), channel.id));
  const known = createQuery(() => ask.signalsOf(batch.id, traced(injection), String(injection?.trace)));
  const queries = createQueries(() => ({
    queries: (known.data ?? []).map((s) => ask.signal(batch.id, injection!.id, s.position)),
  }));
  const list = $derived((known.data ?? []).map((s, k) => ({ ...s, trace: queries[k]?.data as Trace | undefined })));
  const conditions = $derived(list.filter((s) => s.kind === "condition"));
  const behind = $derived(signals.drawn === "behind" ? conditions.filter((s) => !signals.hidden(s)) : []);
  const names = $derived(new Map(batch.version.method.compounds.map((c) => [c.id, c])));
  const peaks = $derived(
    (injected?.peaks ?? []).map((p) => ({
      ...p,
      name: names.get(p.compound_id)?.name ?? "",
      standard: names.get(p.compound_id)?.role === "internal_standard",
    })),
  );
  const moments = $derived(
    (result?.notices ?? [])
      .filter((n) => n.station === "traces" && n.injection_id === injection?.id && n.at_min !== undefined && n.at_min !== null)
      .map((n) => {
        const name = conditions.find((c) => n.text.startsWith(c.name))?.name ?? "";
        return {
          at: n.at_min!,
          name,
          says: n.text
            .slice(name.length)
            .split(";")[0]!
            .replace(/ at [\d.]+ min/, "")
            .trim(),
        };
      }),
  );

  const view = new Window();
  $effect(() => {
    if (trace.data && view.open(trace.data, injected?.peaks)) show(place.query.at);
  });
  let shownAt = "";
  $effect(() => {
    const at = `${place.query.at ?? ""} ${injection?.id}`;
    if (trace.data && place.query.at && at !== shownAt) {
      shownAt = at;
      show(place.query.at);
    }
  });
  /** The moment comes into sight, with what elutes around it. */
  function show(at: string | number | undefined) {
    const min = Number(at);
    if (at === undefined || at === "" || !Number.isFinite(min) || (min > view.from && min < view.to)) return;
    const span = Math.min(view.to - view.from, 6);
    view.show(min - span / 2, min + span / 2, false);
  }
  let pointer = $state<number | null>(null);
  let hovered = $state<number | null>(null);

  /** Whether a file of the injection holds spectra, and the moment whose spectrum stays. */
  const spectral = $derived(
    (injection?.header.spectra?.length ?? 0) > 0 || (injection?.more ?? []).some((f) => (f.header.spectra?.length ?? 0) > 0),
  );
  let pinned = $state<number | null>(null);
  /** Two moments marked with Shift and a click: time, height and area between them. */
  let marks = $state<number[]>([]);
  function measure(e: MouseEvent) {
    if (pointer === null) return;
    if (!e.shiftKey) {
      if (spectral) pinned = pinned === null ? pointer : null;
      return;
    }
    e.preventDefault();
    marks = marks.length === 2 ? [pointer] : [...marks, pointer];
  }
  const measured = $derived.by(() => {
    const t = trace.data;
    if (marks.length < 2 || !t) return null;
    const [a, b] = marks.toSorted((x, y) => x - y) as [number, number];
    const ya = valueAt(t, a);
    const yb = valueAt(t, b);
    if (ya === null || yb === null || b <= a) return null;
    let area = 0;
    for (let i = 1; i < t.min.length; i++) {
      const from = Math.max(a, t.min[i - 1]!);
      const to = Math.min(b, t.min[i]!);
      if (to <= from) continue;
      const line = (x: number) => ya + ((yb - ya) * (x - a)) / (b - a);
      const y = (x: number) => t.value[i - 1]! + ((t.value[i]! - t.value[i - 1]!) * (x - t.min[i - 1]!)) / (t.min[i]! - t.min[i - 1]!);
      area += ((y(from) - line(from) + y(to) - line(to)) / 2) * (to - from) * 60;
    }
    return { a, b, ya, yb, area };
  });

  $effect(() =>
    keys({
      ...view.keys(),
      o: nextMode,
      Escape: () => ((marks = []), (pinned = null)),
    }),
  );
</script>

<div class="stage">
  <main class="main">
    {#if !injection}
      <div class="empty">
        No injections yet. <button
          class="btn"
          title="Opens the batch, where files are dropped"
          onclick={() => place.go({ station: "batch" })}>Add files</button
        >
      </div>
    {:else}
      <div class="head">
        <h1 title={injection.name}>{injection.name} <em>{replicate(batch, index)}</em></h1>
        <span class="note"
          >injection {index + 1} of {batch.injections.length}{injection.header.acquired_at
            ? ` · ${new Date(injection.header.acquired_at).toLocaleString("en-GB", { day: "numeric", month: "long", year: "numeric", hour: "2-digit", minute: "2-digit", timeZone: "UTC" })}`
            : ""}{stale ? " · processing …" : ""}</span
        >
        <span class="tools">
          <ChannelChoice {batch} {channel} />
          <Choice
            label="Conditions drawn"
            options={[
              ["lanes", "in lanes"],
              ["behind", "behind"],
              ["off", "off"],
            ]}
            value={signals.drawn}
            choose={(how) => (signals.drawn = how)}
          />
          <LabelMenu />
          <button onclick={() => view.all()} title="Shows the whole run (0)"><kbd>0</kbd> whole run</button>
          <Choice label="How traces stand" options={modeWords} value="one" choose={setMode} />
        </span>
      </div>
      {#if trace.isError}
        <div class="empty">{trace.error.message} <button class="btn" onclick={() => trace.refetch()}>Try again</button></div>
      {:else}
        <!-- svelte-ignore a11y_no_static_element_interactions, a11y_click_events_have_key_events -->
        <div class="picture" onclick={measure}>
          <Chromatogram
            trace={trace.data}
            {unit}
            {peaks}
            {hovered}
            {view}
            hover={(n) => (hovered = n)}
            right={behind.length > 0 ? 12 + 48 * Math.min(3, behind.length) : 12}
            bind:pointer
          >
            {#snippet over(f)}
              {#each moments.filter((m) => m.at > f.from && m.at < f.to) as m (m.at)}
                <rect x={f.sx(m.at) - 4} y={f.y1 - 6} width="8" height={f.y0 - f.y1 + 6} fill="var(--row-kaki)" />
                <path d="M{f.sx(m.at)} {f.y1 - 6}V{f.y0}" stroke="var(--kaki)" stroke-width="1" />
                <text class="lb2 says" x={f.sx(m.at) + 8} y={f.y1 + 8}
                  >{fixed(m.at, 2)} min{signals.drawn === "lanes" ? "" : `: ${m.name} ${m.says}`}</text
                >
              {/each}
              {#if behind.length > 0}<Behind {f} list={behind} />{/if}
              {#if pinned !== null}<path d="M{f.sx(pinned)} {f.y1}V{f.y0}" stroke="var(--ink)" stroke-dasharray="1 3" />{/if}
              {#each marks as at, k (k)}
                <path d="M{f.sx(at)} {f.y1}V{f.y0}" stroke="var(--ai)" stroke-dasharray="3 3" />
              {/each}
              {#if measured}
                <path
                  d="M{f.sx(measured.a)} {f.sy(measured.ya)}L{f.sx(measured.b)} {f.sy(measured.yb)}"
                  stroke="var(--ai)"
                  stroke-width="1.2"
                />
              {/if}
            {/snippet}
          </Chromatogram>
        </div>
        {#if signals.drawn === "lanes"}
          <Lanes batch={batch.id} injection={injection.id} traces={String(injection.trace)} {view} {pointer} {moments} />
        {:else if signals.drawn === "behind" && conditions.filter((s) => !signals.hidden(s)).length > 3}
          <p class="note">At most three conditions stand behind a trace; hide one to see another.</p>
        {/if}
        <Minimap trace={trace.data} {view} />
      {/if}
    {/if}
  </main>
  <Side>
    <SignalList {list} {pointer} />
    {#if injection && spectral}{#key injection.id}<SpectrumHere
          batch={batch.id}
          injection={injection.id}
          at={pinned ?? pointer}
        />{/key}{/if}
    {#if injection}<Sound {batch} {result} injection={injection.id} {conditions} {show} />{/if}
    {#if measured}
      <section aria-label="Measured">
        <h2>Measured <span class="r">{fixed(measured.a, 3)} – {fixed(measured.b, 3)} min</span></h2>
        <dl>
          <dt>Time between</dt>
          <dd>{fixed(measured.b - measured.a, 3)} min</dd>
          <dt>Height between</dt>
          <dd>{significant(measured.yb - measured.ya, 3)} {unit}</dd>
          <dt>Area over the line</dt>
          <dd>{significant(measured.area, 4)} {unit}·s</dd>
        </dl>
        <button class="lnk" title="Takes the two marks away (Esc)" onclick={() => (marks = [])}>done</button>
      </section>
    {/if}
    <Views {batch} picture=".picture" />
  </Side>
  <Foot
    hints={[
      ["O", "way of looking"],
      ["J|K", "run order"],
      ["drag", "zoom"],
      ["wheel", "time"],
      ["Shift click", "measure"],
    ]}
  >
    {#if marks.length === 1}first mark at {fixed(marks[0], 3)} min{:else if pointer !== null && trace.data}{fixed(pointer, 3)} min, {significant(
        valueAt(trace.data, pointer) ?? 0,
        4,
      )}
      {unit}{/if}
  </Foot>
</div>

<style>
  .picture {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 0;
  }
  .says {
    fill: var(--kaki-text);
    font-weight: 600;
  }
  dl {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 2px 10px;
    font-size: 12.5px;
  }
</style>
