<script lang="ts">
  // The whole batch from above: time across, injections down, the signal as ink. Drift is a slant, a change a step, an odd injection a row unlike its kin.
  import { createQuery } from "@tanstack/svelte-query";
  import { count, fixed, significant } from "../../look/number";
  import ChannelChoice from "../../parts/ChannelChoice.svelte";
  import Choice from "../../parts/Choice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Glyph, { stairSteps } from "../../parts/Glyph.svelte";
  import Side from "../../parts/Side.svelte";
  import Axes from "../../plot/Axes.svelte";
  import { scaleOf } from "../../plot/colours";
  import { frame } from "../../plot/frame";
  import { pxIn, ZoomDrag } from "../../plot/zoomdrag.svelte";
  import { topLabels } from "./topLabels";
  import { Window } from "../../plot/window.svelte";
  import { allPeaks } from "../../state/channel";
  import { ask } from "../../state/ask";
  import { levelsOf, replicate } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { light } from "../../state/light.svelte";
  import { place } from "../../state/place.svelte";
  import type { StationProps } from "../props";
  import { modeWords, nextMode, setMode, treatmentOf, treated } from "./modes";
  import Spark from "./Spark.svelte";
  import Views from "./Views.svelte";
  import Treated from "./Treated.svelte";

  let { batch, result, index, channel }: StationProps = $props();
  const columns = 1400;
  const much = 12; // percent from which a row is odd, as the server says it in words

  const first = $derived(batch.injections.find((i) => i.role === "standard")?.id ?? batch.injections[0]?.id ?? "");
  let held = $state(false);
  const treatment = $derived(treatmentOf(batch, first));
  const asked = $derived(held || !treated(treatment) ? {} : treatment);
  const query = createQuery(() => ask.above(batch.id, batch.revision, channel.id, columns, asked));
  const above = $derived(query.data && query.data.rows.length === batch.injections.length ? query.data : undefined);
  const values = $derived.by(() => {
    if (!above) return new Float32Array();
    const bytes = Uint8Array.from(atob(above.values), (c) => c.charCodeAt(0));
    return new Float32Array(bytes.buffer);
  });
  const across = $derived(above?.columns ?? columns);

  const view = new Window();
  $effect(() => {
    if (above) view.run(above.from_min, above.to_min);
  });
  let width = $state(900);
  let height = $state(500);
  const rows = $derived(batch.injections.length);
  const left = 132;
  const right = 96;
  const high = $derived(Math.max(4, (height - 44 - 26) / Math.max(1, rows)));
  const tall = $derived(44 + high * rows + 26);
  const f = $derived(frame(width, tall, { l: left, r: right, t: 44, b: 26 }, [view.from, view.to], [0, 1]));
  const y = (row: number) => f.y1 + row * high;

  let tone = $state<"even" | "weak">("weak");
  /** From what two fifths of the picture lie below, the ground with its drift, to what nearly all of the shown stretch stays below, so that one solvent front does not take all the ink. */
  const span = $derived.by<[number, number]>(() => {
    if (!above || values.length === 0) return [0, 1];
    const from = columnAt(view.from);
    const to = Math.max(from + 1, columnAt(view.to));
    const sample: number[] = [];
    const step = Math.max(1, Math.floor(((to - from) * rows) / 40_000));
    for (let r = 0, k = 0; r < rows; r++)
      for (let c = from; c < to; c++, k++)
        if (k % step === 0) {
          const v = values[r * across + c]!;
          if (!Number.isNaN(v)) sample.push(v);
        }
    sample.sort((a, b) => a - b);
    if (sample.length === 0) return [0, 1];
    const low = sample[Math.floor(sample.length * 0.4)]!;
    const high = sample[Math.floor(sample.length * 0.995)]!;
    return high > low ? [low, high] : [low, low + 1];
  });
  const columnAt = (min: number) =>
    Math.max(
      0,
      Math.min(across - 1, Math.floor(((min - (above?.from_min ?? 0)) / ((above?.to_min ?? 1) - (above?.from_min ?? 0))) * across)),
    );
  const scale = $derived(scaleOf(light.night));
  const toneOf = (t: number) => (tone === "weak" ? Math.pow(t, 0.48) : t);

  let canvas = $state<HTMLCanvasElement>();
  $effect(() => {
    if (!canvas || !above) return;
    const w = Math.max(1, Math.round(f.x1 - f.x0));
    canvas.width = w;
    canvas.height = Math.max(1, rows);
    const g = canvas.getContext("2d");
    if (!g) return;
    const image = g.createImageData(w, Math.max(1, rows));
    const [low, top] = span;
    const perMin = across / (above.to_min - above.from_min);
    for (let x = 0; x < w; x++) {
      const a = (view.from + ((view.to - view.from) * x) / w - above.from_min) * perMin;
      const b = a + ((view.to - view.from) / w) * perMin;
      const from = Math.max(0, Math.min(across - 1, Math.floor(a)));
      const to = Math.max(from, Math.min(across - 1, Math.ceil(b) - 1));
      for (let r = 0; r < rows; r++) {
        let v = NaN;
        for (let c = from; c <= to; c++) {
          const one = values[r * across + c]!;
          if (!(v >= one)) v = Number.isNaN(one) ? v : one;
        }
        const o = 4 * (r * w + x);
        if (Number.isNaN(v)) continue; // the ground shows where nothing was measured
        const colour = scale[Math.max(0, Math.min(511, Math.round(511 * toneOf(Math.max(0, (v - low) / (top - low))))))]!;
        image.data.set([...colour, 255], o);
      }
    }
    g.putImageData(image, 0, 0);
  });

  const compounds = $derived(batch.version.method.compounds.toSorted((a, b) => a.expected_min - b.expected_min));
  /** Where each compound was found, row by row, as the rows are drawn. */
  const apexes = $derived(
    compounds.map((c) => ({
      c,
      at: (result?.injections ?? []).map((i, r) => {
        const p = allPeaks(i).find((p) => p.compound_id === c.id);
        return p ? p.apex_min + (above?.rows[r]?.shift_min ?? 0) : null;
      }),
    })),
  );
  const lineOf = (at: (number | null)[]) => {
    let d = "";
    let on = false;
    at.forEach((v, r) => {
      if (v === null || v < f.from || v > f.to) {
        on = false;
        return;
      }
      d += `${on ? "L" : "M"}${f.sx(v).toFixed(1)} ${(y(r) + high / 2).toFixed(1)}`;
      on = true;
    });
    return d;
  };
  const labelled = $derived(topLabels(batch.version.method.compounds, f));
  const levels = $derived(levelsOf(batch));
  const odd = $derived((above?.rows ?? []).flatMap((r, k) => ((r.unlike_percent ?? 0) > much ? [{ ...r, k }] : [])));
  const chosen = $derived(above?.rows[index]);
  const title = (k: number) => `${batch.injections[k]!.name} ${replicate(batch, k)}`.trim();
  /** Names stand where there is room: of each block of one name the first, and the chosen row always. */
  const named = $derived.by(() => {
    let last = -Infinity;
    return batch.injections.map((i, k) => {
      const fresh = k === 0 || batch.injections[k - 1]!.name !== i.name;
      const room = y(k) - last >= 11;
      if (!(fresh && room)) return false;
      last = y(k);
      return true;
    });
  });
  const choose = (k: number) => place.go({ query: { i: batch.injections[Math.max(0, Math.min(rows - 1, k))]!.id } }, false);
  function toMirror() {
    if (!chosen?.kin_id) return;
    place.go({ query: { mode: "mirror", show: `${chosen.injection_id},${chosen.kin_id}` } });
  }

  let pointer = $state<{ min: number; row: number } | null>(null);
  const drag = new ZoomDrag();
  const rowAt = (e: MouseEvent, el: Element) => Math.floor((e.clientY - el.getBoundingClientRect().top - f.y1) / high);
  function click(e: PointerEvent, svg: SVGSVGElement) {
    const r = rowAt(e, svg);
    if (r >= 0 && r < rows) choose(r);
  }
  $effect(() =>
    keys({
      ...view.keys(),
      o: nextMode,
      b: () => (held = true),
      Enter: toMirror,
    }),
  );
</script>

<svelte:window onkeyup={(e) => e.key.toLowerCase() === "b" && (held = false)} />

<div class="stage">
  <main class="main">
    <div class="head">
      <h1>Traces</h1>
      <span class="note">{count(rows, "injection")}, the first at the top</span>
      <span class="tools">
        <ChannelChoice {batch} {channel} />
        <Choice
          label="Tone"
          options={[
            ["weak", "lifts weak"],
            ["even", "even"],
          ]}
          value={tone}
          choose={(t) => (tone = t)}
        />
        <button onclick={() => view.all()} title="Shows the whole run (0)"><kbd>0</kbd> whole run</button>
        <Choice label="How traces stand" options={modeWords} value="above" choose={setMode} />
      </span>
    </div>
    <Treated {batch} {treatment} {held} />
    {#if query.isError}
      <div class="empty">{query.error.message} <button class="btn" onclick={() => query.refetch()}>Try again</button></div>
    {:else if rows < 3}
      <div class="empty">
        From above is for three injections and more. <button class="btn" onclick={() => setMode("offset")}>Offset</button>
      </div>
    {:else}
      <div class="map" bind:clientWidth={width} bind:clientHeight={height}>
        {#if !above}<div class="note busy">Reading {count(rows, "trace")} …</div>{/if}
        <canvas bind:this={canvas} style="left:{f.x0}px;top:{f.y1}px;width:{f.x1 - f.x0}px;height:{high * rows}px" aria-hidden="true"
        ></canvas>
        <svg
          {width}
          height={tall}
          role="img"
          aria-label="{rows} injections from above"
          onpointerdown={(e) => drag.press(e, () => f, view, click)}
          ondblclick={() => view.all()}
          onwheel={(e) => {
            if (!e.ctrlKey && tall > height + 2) return; // many rows are scrolled
            e.preventDefault();
            view.zoom(f.ix(pxIn(e, e.currentTarget)), Math.exp((e.deltaY || e.deltaX) * 0.0015));
          }}
          onpointermove={(e) => {
            const at = pxIn(e, e.currentTarget);
            const row = rowAt(e, e.currentTarget);
            pointer = at >= f.x0 && at <= f.x1 && row >= 0 && row < rows ? { min: f.ix(at), row } : null;
          }}
          onpointerleave={() => (pointer = null)}
        >
          <rect {width} height={tall} fill="transparent" />
          {#each labelled as l (l.c.id)}
            {#if l.row >= 0}<text
                class="tl"
                style={l.c.role === "target" ? "" : "fill:var(--moss)"}
                x={l.px}
                y={f.y1 - 8 - 13 * l.row}
                text-anchor="middle">{l.c.name}</text
              >{/if}
          {/each}
          {#each apexes as a (a.c.id)}
            <path
              d={lineOf(a.at)}
              fill="none"
              stroke={a.c.role === "target" ? "var(--ochre)" : "var(--moss)"}
              stroke-width="1"
              opacity=".85"
            />
          {/each}
          {#each batch.injections as i, k (i.id)}
            {#if named[k] || k === index}
              {#if k !== index && Math.abs(y(k) - y(index)) < 11}{:else}
                <text class="tl row" class:own={k === index} x={f.x0 - 24} y={y(k) + Math.min(high, 12) / 2 + 4} text-anchor="end"
                  >{i.name.length > 17 ? `${i.name.slice(0, 16)}…` : i.name}</text
                >
                {#if high >= 8 || named[k]}<g transform="translate({f.x0 - 20} {y(k) + high / 2 - 7})"
                    ><Glyph role={i.role} steps={stairSteps(i.level, levels)} /></g
                  >{/if}
              {/if}
            {/if}
            {@const u = above?.rows[k]?.unlike_percent}
            {#if u !== undefined && u !== null && u > 1}
              <path
                d="M{f.x1 + 8} {y(k) + high / 2}h{Math.min(1, u / 100) * 52}"
                stroke={u > much ? "var(--kaki)" : "var(--mist-3)"}
                stroke-width={Math.min(5, Math.max(2, high - 3))}
              />
              {#if u > much}<text class="tl own" x={f.x1 + 12 + Math.min(1, u / 100) * 52} y={y(k) + high / 2 + 4}>{u.toFixed(0)}</text
                >{/if}
            {/if}
          {/each}
          <text class="tl" x={f.x1 + 8} y={f.y1 - 8}>unlike its kin, %</text>
          <rect
            x={f.x0 - 2}
            y={y(index) - 1}
            width={f.x1 - f.x0 + 4}
            height={high + 2}
            fill="none"
            stroke="var(--kaki)"
            stroke-width="1.4"
          />
          <Axes {f} up={0} />
          {#if pointer}
            <path d="M{f.sx(pointer.min)} {f.y1}V{f.y0}" stroke="var(--ink)" stroke-width=".8" />
          {/if}
          {#if drag.stretch}<rect
              x={drag.stretch[0]}
              y={f.y1}
              width={drag.stretch[1] - drag.stretch[0]}
              height={f.y0 - f.y1}
              fill="var(--row-ai)"
              opacity=".6"
            />{/if}
        </svg>
      </div>
      <div class="legend" aria-label="Ink and signal" role="img">
        <span>{significant(span[0], 2)}</span>
        <i
          style="background:linear-gradient(to right,{[0, 0.1, 0.2, 0.35, 0.5, 0.75, 1]
            .map((t) => `rgb(${scale[Math.round(511 * toneOf(t))]!.join(' ')}) ${100 * t}%`)
            .join(',')})"
        ></i>
        <span>{significant(span[1], 2)} {above?.unit ?? ""} and more</span>
      </div>
    {/if}
  </main>
  <Side>
    <section aria-label="The row">
      <h2>{title(index)} <span class="r">injection {index + 1}</span></h2>
      {#if chosen?.says}<p class="lede">{chosen.says}</p>
      {:else if chosen?.kin_id}<p class="note">
          {fixed(chosen.unlike_percent ?? 0, 1)} % unlike {title(batch.injections.findIndex((i) => i.id === chosen.kin_id))}.
        </p>
      {:else}<p class="note">It has no duplicate or kin that it could be compared with.</p>{/if}
      {#if chosen?.kin_id}<button class="btn" onclick={toMirror}>Bring both to mirror <kbd>Enter</kbd></button>{/if}
    </section>
    <section aria-label="Retention through the run">
      <h2>Retention <span class="r">through the run, min</span></h2>
      {#each apexes.filter((a) => a.at.some((v) => v !== null)) as a (a.c.id)}
        <Spark name={a.c.name} at={a.at} {index} standard={a.c.role !== "target"} />
      {/each}
    </section>
    <section aria-label="Odd ones">
      <h2>Odd ones <span class="r">{odd.length} of {rows}</span></h2>
      {#each odd as o (o.injection_id)}
        <button class="odd" class:on={o.k === index} title="Chooses this row" onclick={() => choose(o.k)}
          ><b>{o.k + 1}</b> <span>{title(o.k)}: {o.says}</span></button
        >
      {:else}<p class="note">No row differs from its kin by more than {much} %.</p>{/each}
    </section>
    <Views {batch} picture=".map" />
  </Side>
  <Foot
    hints={[
      ["O", "way of looking"],
      ["J|K", "row"],
      ["Enter", "both to mirror"],
      ["drag", "zoom"],
      ["B", "hold: as measured"],
    ]}
  >
    {#if pointer && above}{fixed(pointer.min, 2)} min, injection {pointer.row + 1}: {significant(
        values[pointer.row * across + columnAt(pointer.min)] ?? 0,
        3,
      )}
      {above.unit}{/if}
  </Foot>
</div>

<style>
  .map {
    position: relative;
    flex: 1;
    min-height: 0;
    overflow-y: auto;
    overflow-x: hidden;
    touch-action: pan-y;
  }
  canvas {
    position: absolute;
    image-rendering: pixelated;
  }
  svg {
    position: absolute;
    inset: 0;
    display: block;
  }
  .row {
    fill: var(--ink-2);
  }
  .own {
    fill: var(--kaki-text);
    font-weight: 600;
  }
  .busy {
    position: absolute;
    left: 140px;
    top: 4px;
  }
  .legend {
    display: flex;
    justify-content: flex-end;
    align-items: center;
    gap: 8px;
    padding: 2px 96px 6px 16px;
    font-size: 11.5px;
    color: var(--ink-2);
  }
  .legend i {
    width: 120px;
    height: 9px;
  }
  .odd {
    display: grid;
    grid-template-columns: 24px 1fr;
    text-align: left;
    width: 100%;
    font-size: 12.5px;
    line-height: 19px;
    padding: 4px 0;
    border-bottom: 1px solid var(--mist-1);
  }
  .odd.on {
    background: var(--row-kaki);
  }
</style>
