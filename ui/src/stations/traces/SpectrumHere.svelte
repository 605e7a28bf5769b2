<script lang="ts">
  // The spectrum at the pointer, or at the moment that was clicked.
  import { createQuery } from "@tanstack/svelte-query";
  import { fixed, significant } from "../../look/number";
  import { ask } from "../../state/ask";

  let { batch, injection, at }: { batch: string; injection: string; at: number | null } = $props();
  // The pointer rests a moment before it is asked.
  let moment = $state<number | null>(null);
  $effect(() => {
    const now = at;
    const rest = setTimeout(() => now !== null && (moment = Number(now.toFixed(3))), 90);
    return () => clearTimeout(rest);
  });
  const query = createQuery(() => ask.spectrum(batch, injection, moment));
  const s = $derived(query.data);
  const wide = 276;
  const high = 150;
  const low = $derived(s && s.axis.length ? s.axis[0]! : 0);
  const top = $derived(s && s.axis.length ? s.axis.at(-1)! : 1);
  const most = $derived(s ? Math.max(...s.values, 1e-12) : 1);
  const least = $derived(s?.kind === "wavelength" ? Math.min(0, ...s.values) : 0);
  const pad = $derived((top - low || 1) * 0.03);
  const x = (v: number) => 4 + ((v - low + pad) / (top - low + 2 * pad || 1)) * (wide - 8);
  const y = (v: number) => high - 18 - ((v - least) / (most - least || 1)) * (high - 40);
  const path = $derived(
    !s
      ? ""
      : s.kind === "wavelength" || s.profile
        ? s.axis.map((a, i) => `${i ? "L" : "M"}${x(a).toFixed(1)} ${y(s.values[i]!).toFixed(1)}`).join("")
        : s.axis.map((a, i) => `M${x(a).toFixed(1)} ${y(0)}V${y(s.values[i]!).toFixed(1)}`).join(""),
  );
  const said = $derived(
    s
      ? `largest ${significant(most, 3)}${s.unit ? ` ${s.unit}` : ""}, ${s.axis.length} ${s.kind === "wavelength" ? "wavelengths" : "lines"}`
      : "",
  );
  /** The largest lines bear their places, as far as they do not cover each other. */
  const named = $derived.by(() => {
    if (!s) return [];
    const taken: number[] = [];
    return s.axis
      .map((a, i) => ({ a, v: s.values[i]! }))
      .toSorted((p, q) => q.v - p.v)
      .slice(0, s.kind === "wavelength" ? 1 : 12)
      .filter((p) => {
        if (p.v < 0.05 * most || taken.some((t) => Math.abs(t - x(p.a)) < 30)) return false;
        taken.push(x(p.a));
        return true;
      });
  });
</script>

<section aria-label="Spectrum">
  <h2>Spectrum <span class="r">{s ? `at ${fixed(s.at_min, 3)} min` : "at the pointer"}</span></h2>
  {#if query.isError}<p class="note">{query.error.message}</p>
  {:else if !s}<p class="note">Point at a moment of the run.</p>
  {:else}
    <svg width={wide} height={high} role="img" aria-label="Spectrum at {fixed(s.at_min, 3)} min">
      <path d="M0 {y(0)}H{wide}" stroke="var(--mist-3)" />
      <path d={path} fill="none" stroke="var(--ink)" stroke-width="1.2" />
      {#each named as p (p.a)}<text class="tl" x={x(p.a)} y={y(p.v) - 4} text-anchor="middle">{Number(p.a.toFixed(2))}</text>{/each}
      <text class="tl" x="2" y={high - 3}>{Number(low.toFixed(1))}</text>
      <text class="tl" x={wide - 2} y={high - 3} text-anchor="end">{Number(top.toFixed(1))} {s.kind === "wavelength" ? "nm" : "m/z"}</text>
    </svg>
    <p class="note">{said}</p>
  {/if}
</section>
