<script lang="ts">
  // Marks on peaks, and the settings that do what they show. What is found is tried like any other change.
  import type { Batch, Settings } from "../../api/client";
  import { replicate } from "../../state/desk.svelte";
  import { examples } from "./examples.svelte";

  let {
    batch,
    channel,
    from,
    to,
    use,
  }: { batch: Batch; channel: string; /** The stretch that is shown, min. */ from: number; to: number; use: (s: Settings) => void } =
    $props();

  let stretch = $state(false);
  const name = (id: string) => {
    const k = batch.injections.findIndex((i) => i.id === id);
    return k < 0 ? "removed" : `${batch.injections[k]!.name} ${replicate(batch, k)}`;
  };
  async function suggest() {
    const found = await examples.ask(batch.id, channel, stretch ? Number(from.toFixed(2)) : 0, stretch ? Number(to.toFixed(2)) : 0);
    if (found) use(found.settings);
  }
  const contradicts = (k: number) => examples.suggestion?.contradicting.includes(k) ?? false;
</script>

<section aria-label="Examples">
  <h2>Examples <span class="r"><button class="lnk" onclick={() => examples.close()} title="Puts the examples away">Done</button></span></h2>
  <p class="note">
    Click a peak to keep it; Alt click one to ignore. Walk to other injections and mark there too. <kbd>A</kbd> marks at the pointer,
    <kbd>X</kbd> ignores.
  </p>
  {#each examples.marks as m, k (m.injection_id + m.at_min)}
    <p class="mark" class:att={contradicts(k)}>
      <button class="lnk" title="Turn about" onclick={() => examples.mark(m.injection_id, m.at_min, !m.keep)}
        >{m.keep ? "keep" : "ignore"}</button
      >
      <span>{m.at_min.toFixed(2)} min, {name(m.injection_id)}</span>
      <button class="mut" aria-label="Forget the mark at {m.at_min.toFixed(2)} min" onclick={() => examples.forget(k)}>×</button>
    </p>
  {/each}
  <label class="chk" title="Peaks outside of this stretch say nothing about the settings"
    ><input type="checkbox" bind:checked={stretch} />only {from.toFixed(1)} – {to.toFixed(1)} min matters</label
  >
  <p class="acts">
    <button
      class="btn"
      disabled={examples.marks.length === 0 || examples.busy}
      title="Looks for settings that find what is marked and nothing that is ignored"
      onclick={suggest}>{examples.busy ? "Searching …" : "Find settings"}</button
    >
  </p>
  {#if examples.trouble}<p class="note att" role="alert">{examples.trouble}</p>{/if}
  {#if examples.suggestion}
    {@const held = examples.suggestion.satisfied.filter(Boolean).length}
    <p class="note" role="status">
      {#if held === examples.marks.length}These settings do what all {held} marks show.
      {:else}The best settings do what {held} of {examples.marks.length} marks show. The marks in red contradict each other: no width, threshold
        or least size satisfies all of them.{/if}
    </p>
  {/if}
</section>

<style>
  .mark {
    display: grid;
    grid-template-columns: 46px 1fr 16px;
    font-size: 12.5px;
    line-height: 21px;
    align-items: baseline;
  }
  .mark .lnk {
    justify-self: start;
  }
  .acts {
    padding: 7px 0 4px;
  }
</style>
