<script lang="ts">
  // What was found over all batches: injections, means and batches, each opened where it stands.
  import type { paths } from "../../api/schema";
  import { count, missing, significant } from "../../look/number";
  import { place } from "../../state/place.svelte";

  type Found = paths["/api/find"]["get"]["responses"][200]["content"]["application/json"];
  let { found, text, find }: { found: Found; text: string; find: (text: string) => void } = $props();
  const day = (t: string | null) => (t ? new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" }) : "");
  const open = (r: Found["results"][number]) =>
    place.go({ batch: r.batch_id, station: r.compound ? "results" : "peaks", query: { i: r.injection_id, c: "", face: "" } });
  const pieces = (name: string): { text: string; hit: boolean }[] => {
    const at = name.toLowerCase().indexOf(text.trim().split(/\s+/)[0]?.toLowerCase() ?? "");
    const long = text.trim().split(/\s+/)[0]?.length ?? 0;
    if (at < 0 || long === 0) return [{ text: name, hit: false }];
    return [
      { text: name.slice(0, at), hit: false },
      { text: name.slice(at, at + long), hit: true },
      { text: name.slice(at + long), hit: false },
    ].filter((p) => p.text);
  };
</script>

<p class="note says" role="status">
  {found.says}{found.results.length + found.batches.length
    ? `: ${[
        found.batches.length ? count(found.batches.length, "batch", "batches") : "",
        found.results.length ? `${found.more ? "the newest " : ""}${found.results.length}${found.more ? ", there are more" : ""}` : "",
      ]
        .filter(Boolean)
        .join(", ")}`
    : ""}
</p>
{#if found.results.length + found.batches.length === 0}
  <p class="none">
    Nothing has “{text.trim()}”.{#if found.near.length}
      Near: {#each found.near as n (n)}<button class="lnk" title="Looks for {n}" onclick={() => find(n)}>{n}</button>{/each}{/if}
  </p>
{/if}
<ul aria-label="Found">
  {#each found.batches as b (b.batch_id)}<li>
      <button title="Opens {b.batch}" onclick={() => place.go({ batch: b.batch_id, station: "batch", query: {} })}
        ><span class="mut">{b.study} ›</span>
        {#each pieces(b.batch) as p, k (k)}{#if p.hit}<b>{p.text}</b>{:else}{p.text}{/if}{/each}</button
      ><span class="mut">{b.method}</span><span></span>
    </li>{/each}
  {#each found.results as r, k (k)}<li>
      <button title="Opens it in {r.batch}" onclick={() => open(r)}
        ><span class="mut">{r.batch} ›</span>
        {#each pieces(r.name) as p, n (n)}{#if p.hit}<b>{p.text}</b>{:else}{p.text}{/if}{/each}{#if r.compound}<span class="mut to">›</span>
          {r.compound} <b class="num">{r.amount === null ? missing : `${significant(r.amount, 4)} ${r.unit}`}</b>{/if}</button
      ><span class="mut"
        >{r.compound ? r.flags.replaceAll("_", " ") : [r.vial && `vial ${r.vial}`, r.file].filter(Boolean).join(" · ")}</span
      ><span class="mut d">{day(r.at)}</span>
    </li>{/each}
</ul>

<style>
  .says {
    margin: 4px 0;
  }
  .none {
    font: 16px/24px var(--f-read);
    display: flex;
    gap: 10px;
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr) 100px;
    gap: 12px;
    border-bottom: 1px solid var(--mist-1);
    align-items: baseline;
  }
  li button {
    min-height: 26px;
    text-align: left;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  b {
    font-weight: 600;
  }
  .mut {
    color: var(--ink-2);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .to {
    margin: 0 0.3em;
  }
  .d {
    text-align: right;
  }
</style>
