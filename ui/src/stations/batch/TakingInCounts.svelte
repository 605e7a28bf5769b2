<script lang="ts">
  // How far the taking in is, what was refused, what is to be known, and what comes then.
  import type { Batch } from "../../api/client";
  import { fixed } from "../../look/number";
  import Mark from "../../parts/Mark.svelte";
  import { intake } from "./intake.svelte";

  let { batch }: { batch: Batch } = $props();
  const n = (...of: string[]) => intake.files.filter((f) => of.includes(f.status)).length;
  const refused = $derived(intake.files.filter((f) => f.status === "refused"));
  const told = $derived(intake.files.filter((f) => f.status === "added" && f.message));
  const rows = $derived(
    [
      ["Taken in", n("added"), ""],
      ["Further files of them", n("joined"), ""],
      ["Here already, unchanged", n("already"), ""],
      ["Refused", refused.length, "att"],
      ["Stopped", n("stopped"), ""],
      ["Waiting", n("waiting", "sending", "coming"), ""],
    ].filter(([what, k]) => k !== 0 || what === "Taken in" || what === "Waiting") as [string, number, string][],
  );
</script>

<section aria-label="How far">
  <h2>
    {intake.ended} of {intake.files.length}
    <span class="r">{intake.perS ? `${fixed(intake.perS, intake.perS < 10 ? 1 : 0)} files per s` : ""}</span>
  </h2>
  <dl>
    {#each rows as [what, k, kind] (what)}
      <dt class={kind}>{what}</dt>
      <dd class="num {kind}">{k}</dd>
    {/each}
  </dl>
  <p class="acts">
    <button class="btn" title="What is being read is still taken in, the rest is not" onclick={() => intake.stop()}>
      Stop after these <kbd>Esc</kbd></button
    >
  </p>
  <p class="note">What is in stays in. Dropping the rest again goes on from here. This page may be left; it goes on.</p>
</section>
{#each [["Refused", refused, "kaki"], ["To know", told, "ochre"]] as const as [title, list, colour] (title)}
  {#if list.length > 0}
    <section aria-label={title}>
      <h2>{title} <span class="r">{list.length}</span></h2>
      {#each list.slice(0, 8) as f (f.name)}
        <p class="one"><span class={colour}><Mark name="look" /></span><b>{f.name}</b><span class="note">{f.message}</span></p>
      {/each}
      {#if list.length > 8}<p class="note">and {list.length - 8} more</p>{/if}
    </section>
  {/if}
{/each}
<p class="lede">Then: peaks by <em>{batch.version.name}</em>, version {batch.version.number}.</p>

<style>
  dl {
    display: grid;
    grid-template-columns: 1fr auto;
    font-size: 13px;
  }
  dt,
  dd {
    line-height: 23px;
    border-bottom: 1px solid var(--mist-1);
  }
  .acts {
    padding: 8px 0 4px;
  }
  .one {
    display: grid;
    grid-template-columns: 18px 1fr;
    gap: 1px 6px;
    padding: 4px 0;
    font-size: 12.5px;
    border-bottom: 1px solid var(--mist-1);
  }
  .one b {
    font-weight: 500;
    overflow-wrap: anywhere;
  }
  .one .note {
    grid-column: 2;
  }
  .kaki {
    color: var(--kaki);
  }
  .ochre {
    color: var(--ochre-text);
  }
</style>
