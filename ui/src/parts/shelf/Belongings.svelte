<script lang="ts">
  // A study on the shelf: a stroke for each month of its batches, and unfolded what belongs to it.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Study } from "../../api/client";
  import { count } from "../../look/number";
  import { ask } from "../../state/ask";
  import { place } from "../../state/place.svelte";

  let {
    study,
    months,
    find,
  }: { study: Study; /** As year × 12 + month, the first and the last. */ months: [number, number]; find: (text: string) => void } =
    $props();
  let open = $state(false);
  const any = $derived(study.batches[0]?.id ?? "");
  const methods = createQuery(() => ask.methods());
  const own = $derived(methods.data?.filter((m) => m.study === study.name) ?? []);
  const layouts = createQuery(() => ({ ...ask.layouts(any), enabled: open && any !== "" }));
  const lists = createQuery(() => ({ ...ask.ionLists(any), enabled: open && any !== "" }));
  const profiles = createQuery(() => ({ ...ask.profiles(any), enabled: open && any !== "" }));
  const libraries = createQuery(() => ({ ...ask.libraries(), enabled: open }));
  const monthOf = (t: string) => new Date(t).getFullYear() * 12 + new Date(t).getMonth();
  const strokes = $derived.by(() => {
    const n: Record<number, number> = {};
    for (const b of study.batches) n[monthOf(b.started_at)] = (n[monthOf(b.started_at)] ?? 0) + 1;
    return Object.entries(n).map(([m, k]) => ({ month: Number(m), n: k }));
  });
  const most = $derived(Math.max(1, ...strokes.map((s) => s.n)));
  const width = 270;
  const x = (m: number) => 4 + ((m - months[0]) / Math.max(1, months[1] - months[0])) * (width - 8);
  let dragged = $state<number>(); // the month where a drag began
  function chosen(month: number) {
    if (dragged === undefined) return;
    const [a, b] = [Math.min(dragged, month), Math.max(dragged, month)];
    dragged = undefined;
    find(a === b ? named(a) : `${named(a)} to ${named(b)}`);
  }
  /** The month that a place in the picture is nearest to. */
  const monthAt = (e: PointerEvent) => {
    const r = (e.currentTarget as Element).getBoundingClientRect();
    const share = ((e.clientX - r.left) / r.width) * width;
    return Math.max(months[0], Math.min(months[1], Math.round(months[0] + ((share - 4) / (width - 8)) * (months[1] - months[0]))));
  };
  const named = (m: number) => new Date(Math.floor(m / 12), m % 12, 1).toLocaleString("en-GB", { month: "long", year: "numeric" });
</script>

<div class="study">
  <button class="name" aria-expanded={open} title="{open ? 'Folds' : 'Shows'} what belongs to {study.name}" onclick={() => (open = !open)}
    ><span aria-hidden="true">{open ? "▾" : "▸"}</span> {study.name}</button
  >
  <svg
    {width}
    height="22"
    viewBox="0 0 {width} 22"
    role="group"
    aria-label="Batches of {study.name} by month; drag over months to find what was measured then"
    onpointerdown={(e) => {
      dragged = monthAt(e);
      e.currentTarget.setPointerCapture(e.pointerId);
    }}
    onpointerup={(e) => chosen(monthAt(e))}
    onpointercancel={() => (dragged = undefined)}
  >
    <path class="ground" d="M0 21H{width}" />
    {#each strokes as s (s.month)}
      <g>
        <title>{named(s.month)}, {count(s.n, "batch", "batches")}</title>
        <rect class="hit" x={x(s.month) - 5} y="0" width="10" height="22" />
        <path d="M{x(s.month)} 21V{20 - (17 * s.n) / most}" />
      </g>
    {/each}
  </svg>
  <span class="mut">{count(own.length, "method")}</span>
  <span class="mut n">{count(study.batches.length, "batch", "batches")}</span>
</div>
{#if open}
  <div class="belongs">
    <div>
      <p class="mut">Methods</p>
      {#each own as m (m.id)}<p>
          {m.name} <span class="mut">version {m.versions[0]?.number}{m.versions[0]?.approved ? ", approved" : ""}</span>
          {#if m.versions[0] && !m.versions[0].approved && m.versions.find((v) => v.approved)}<span class="mut"
              >(version {m.versions.find((v) => v.approved)?.number} is approved)</span
            >{/if}
        </p>{:else}<p class="mut">none</p>{/each}
    </div>
    <div>
      <p class="mut">Layouts</p>
      {#each layouts.data ?? [] as k (k.id)}<p>
          {k.layout.name} <span class="mut">{k.version ? `version ${k.version}` : "ships"}</span>
        </p>{:else}<p class="mut">
          {layouts.isPending && any ? "reading" : "none"}
        </p>{/each}
    </div>
    <div>
      <p class="mut">Import profiles</p>
      {#each profiles.data ?? [] as k (k.id)}<p>{k.profile.name || "unnamed"}</p>{:else}<p class="mut">none</p>{/each}
    </div>
    <div>
      <p class="mut">Ion lists</p>
      {#each lists.data ?? [] as k (k.name)}<p>{k.name}</p>{:else}<p class="mut">none</p>{/each}
    </div>
    <div>
      <p class="mut">Libraries of the laboratory</p>
      {#each libraries.data ?? [] as k (k.name)}<p>{k.name}</p>{:else}<p class="mut">none</p>{/each}
    </div>
    <div>
      <p class="mut">Batches</p>
      {#each study.batches.toReversed().slice(0, 8) as b (b.id)}<p>
          <button class="lnk" title="Opens {b.name}" onclick={() => place.go({ batch: b.id, station: "batch", query: {} })}>{b.name}</button
          >
        </p>{/each}
    </div>
  </div>
{/if}

<style>
  .study {
    display: grid;
    grid-template-columns: 190px 280px minmax(0, 1fr) auto;
    gap: 12px;
    align-items: end;
    min-height: 28px;
    border-bottom: 1px solid var(--mist-1);
  }
  @media (max-width: 1100px) {
    .study {
      grid-template-columns: minmax(0, 1fr) auto auto;
    }
    svg {
      display: none;
    }
  }
  .name {
    min-height: 26px;
    text-align: left;
    font: 400 15px/22px var(--f-read);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  svg path {
    stroke: var(--ink-3);
    stroke-width: 2;
  }
  svg .ground {
    stroke: var(--mist-3);
    stroke-width: 1;
  }
  .hit {
    fill: transparent;
    cursor: pointer;
  }
  .mut {
    color: var(--ink-2);
    font-size: 12.5px;
  }
  .belongs {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(170px, 1fr));
    gap: 6px 20px;
    padding: 6px 0 10px 16px;
    border-left: 2px solid var(--ink);
    border-bottom: 1px solid var(--mist-1);
    font-size: 13px;
  }
</style>
