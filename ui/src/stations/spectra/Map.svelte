<script lang="ts">
  import { untrack } from "svelte";
  // Time by wavelength: where something absorbs, and when. The pointer's cut along the wavelengths stands at the right, on the same axis.
  import type { SpectraMap } from "../../api/client";
  import { fixed, significant } from "../../look/number";
  import { label, ticks } from "../../plot/frame";
  import type { Window } from "../../plot/window.svelte";
  import { light } from "../../state/light.svelte";
  import { colours, cutWidth as cut, steps } from "./colourmap";
  import { contourLines } from "./contours";

  let { map, view, look, at }: { map: SpectraMap; view: Window; look: (min: number) => void; at: number | null } = $props();
  let wide = $state(800);
  let tall = $state(220);
  let canvas = $state<HTMLCanvasElement>();
  let lifts = $state(true);
  // Among masses, which stand apart, lines would ring each of them.
  let lined = $state(untrack(() => map.kind !== "mass"));
  let pointer = $state<{ min: number; on: number } | null>(null);
  const left = 50;
  const bottom = 20;
  /** Where the map begins: above it stands what its colours mean. */
  const head = 30;
  const most = $derived(Math.max(1e-9, ...map.values.map((r) => Math.max(...r))));
  const low = $derived(map.axis[0] ?? 0);
  const high = $derived(map.axis.at(-1) ?? 1);
  const right = $derived(wide - cut - 12);
  const x = (min: number) => left + ((min - view.from) / (view.to - view.from)) * (right - left);
  const y = (on: number) => tall - bottom - ((on - low) / (high - low || 1)) * (tall - bottom - head);
  const tone = (v: number) => Math.pow(Math.max(0, v) / most, lifts ? 0.48 : 1);
  $effect(() => {
    const g = canvas?.getContext("2d");
    if (!canvas || !g || map.times_min.length === 0) return;
    const table = colours(light.night);
    canvas.width = map.times_min.length;
    canvas.height = map.axis.length;
    const image = g.createImageData(canvas.width, canvas.height);
    map.values.forEach((row, r) => {
      const line = canvas!.height - 1 - r;
      row.forEach((v, c) => {
        const [red, green, blue] = table[Math.min(steps - 1, Math.round(tone(v) * (steps - 1)))]!;
        const k = 4 * (line * canvas!.width + c);
        image.data[k] = red;
        image.data[k + 1] = green;
        image.data[k + 2] = blue;
        image.data[k + 3] = 255;
      });
    });
    g.putImageData(image, 0, 0);
  });
  const lines = $derived(lined ? contourLines(map.values, most) : []);
  /** Heights whose colours are told. */
  const told = $derived([0, most / 16, most / 4, most]);
  const shades = $derived.by(() => {
    const table = colours(light.night);
    return Array.from({ length: 9 }, (_, k) => `rgb(${table[Math.round((k / 8) * (steps - 1))]!.join(" ")})`).join(", ");
  });
  const half = $derived(map.times_min.length > 1 ? (map.times_min[1]! - map.times_min[0]!) / 2 : 0);
  const shownAt = $derived(pointer?.min ?? at);
  const column = $derived.by(() => {
    const moment = shownAt;
    if (moment === null) return -1;
    let best = 0;
    map.times_min.forEach((t, k) => {
      if (Math.abs(t - moment) < Math.abs(map.times_min[best]! - moment)) best = k;
    });
    return best;
  });
  const spectrum = $derived(column < 0 ? [] : map.values.map((r) => r[column]!));
  const top = $derived(Math.max(...spectrum, 1e-9));
  const cutPath = $derived(
    spectrum
      .map((v, k) => `${k ? "L" : "M"}${(right + 12 + (Math.max(0, v) / top) * (cut - 24)).toFixed(1)} ${y(map.axis[k]!).toFixed(1)}`)
      .join(""),
  );
  const value = $derived.by(() => {
    const on = pointer?.on;
    if (on === undefined || column < 0) return null;
    let best = 0;
    map.axis.forEach((a, k) => {
      if (Math.abs(a - on) < Math.abs(map.axis[best]! - on)) best = k;
    });
    return { on: map.axis[best]!, v: spectrum[best]! };
  });
  function point(e: PointerEvent) {
    const box = (e.currentTarget as Element).getBoundingClientRect();
    const px = e.clientX - box.left;
    pointer =
      px < left || px > right
        ? null
        : {
            min: view.from + ((px - left) / (right - left)) * (view.to - view.from),
            on: low + ((tall - bottom - (e.clientY - box.top)) / (tall - bottom - head)) * (high - low),
          };
  }
  const unit = $derived(map.kind === "mass" ? "m/z" : "nm");
  const scale = $derived(ticks(low, high, 5));
  const times = $derived(ticks(view.from, view.to, 8));
</script>

<div class="map" bind:clientWidth={wide} bind:clientHeight={tall}>
  <div
    class="plane"
    style:left="{x(map.times_min[0]! - half)}px"
    style:width="{x(map.times_min.at(-1)! + half) - x(map.times_min[0]! - half)}px"
    style:top="{head}px"
    style:height="{tall - bottom - head}px"
    style:clip-path="inset(0 {Math.max(0, x(map.times_min.at(-1)! + half) - right)}px 0 {Math.max(
      0,
      left - x(map.times_min[0]! - half),
    )}px)"
  >
    <canvas bind:this={canvas}></canvas>
    <svg viewBox="0 0 {map.times_min.length} {map.axis.length}" preserveAspectRatio="none" aria-hidden="true">
      {#each lines as l (l.height)}<path class="contour" class:dark={tone(l.height) > 0.45} d={l.path} />{/each}
    </svg>
  </div>
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions (the keys [ and ] walk the peaks) -->
  <svg
    width={wide}
    height={tall}
    role="img"
    aria-label="Map of time and {unit}"
    onpointermove={point}
    onpointerleave={() => (pointer = null)}
    onclick={() => pointer && look(pointer.min)}
  >
    {#each scale.at as v (v)}<text class="tl" x={left - 8} y={y(v) + 4} text-anchor="end">{v}</text>{/each}
    {#each times.at as v (v)}{#if x(v) >= left && x(v) <= right - 20}<text class="tl" x={x(v)} y={tall - 5} text-anchor="middle"
          >{label(v, times.decimals)}</text
        >{/if}{/each}
    <text class="tl" x={right} y={tall - 5} text-anchor="end">min</text>
    {#if shownAt !== null && x(shownAt) >= left && x(shownAt) <= right}<path d="M{x(shownAt)} {head}V{tall - bottom}" class="cross" />{/if}
    {#if pointer && value}<path d="M{left} {y(value.on)}H{right}" class="cross" />{/if}
    <path d="M{right + 12} {head}V{tall - bottom}" class="axis" />
    <path d={cutPath} class="cut" />
    <text class="tl" x={wide - 8} y={tall - 5} text-anchor="end"
      >{value
        ? `${value.on.toFixed(0)} ${unit}, ${significant(value.v, 3)} ${map.unit}`
        : shownAt !== null
          ? `at ${fixed(shownAt, 2)} min`
          : unit}</text
    >
  </svg>
  <div class="told">
    <span class="legend" role="img" aria-label="Colours from 0 to {significant(most, 3)} {map.unit}">
      <span class="note">{map.unit}</span>
      <span class="bar" style:background="linear-gradient(to right, {shades})"></span>
      {#each told as v (v)}<span class="at" style:left="{tone(v) * 100}%">{significant(v, 2)}</span>{/each}
    </span>
    <label class="chk"
      ><input type="checkbox" bind:checked={lined} title="Lines at a 32nd, an eighth and a half of the most" />contours</label
    >
    <button class="lnk" title="Draws weak signals stronger, or all evenly" onclick={() => (lifts = !lifts)}
      >{lifts ? "lifts weak" : "even"}</button
    >
  </div>
</div>

<style>
  .map {
    position: relative;
    height: 100%;
    min-height: 140px;
  }
  .plane {
    position: absolute;
  }
  .plane > * {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  .contour {
    fill: none;
    stroke: var(--ink-3);
    stroke-width: 0.8;
    vector-effect: non-scaling-stroke;
  }
  .contour.dark {
    stroke: var(--paper);
  }
  .map > svg {
    position: absolute;
    inset: 0;
    cursor: crosshair;
  }
  .cross {
    stroke: var(--kaki);
    stroke-width: 1;
    stroke-dasharray: 2 2;
    fill: none;
  }
  .axis {
    stroke: var(--mist-3);
  }
  .cut {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.2;
  }
  .told {
    position: absolute;
    right: 16px;
    top: 0;
    display: flex;
    gap: 24px;
    align-items: center;
    height: 28px;
    font-size: 12px;
  }
  .legend {
    position: relative;
    width: 150px;
    height: 26px;
  }
  .legend .note {
    position: absolute;
    right: calc(100% + 8px);
    top: 0;
    line-height: 12px;
  }
  .bar {
    position: absolute;
    inset: 2px 0 auto;
    height: 8px;
  }
  .at {
    position: absolute;
    top: 11px;
    transform: translateX(-50%);
    font-size: 10.5px;
    line-height: 14px;
    color: var(--ink-3);
  }
</style>
