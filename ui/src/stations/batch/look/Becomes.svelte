<script lang="ts">
  // What the looked-at files become, and the one button.
  import type { Batch } from "../../../api/client";
  import { count } from "../../../look/number";
  import { look } from "./look.svelte";
  import OneFile from "./OneFile.svelte";

  let { batch }: { batch: Batch } = $props();
  const taken = $derived(look.taken);
  const joined = $derived(taken.filter((f) => f.with && !look.apart.includes(f.id)).length);
  const n = (status: string) => look.files.filter((f) => f.status === status).length;
  const lacking = $derived(taken.filter((f) => f.missing.length > 0).length);
  const mb = $derived((taken.reduce((sum, f) => sum + f.size, 0) / 1e6).toFixed(1));
</script>

<section aria-label="What they become">
  <h2>{count(look.files.length, "file")} become</h2>
  <dl>
    <dt>Injections to take in</dt>
    <dd>{taken.length - joined}</dd>
    {#if joined > 0}<dt>further files of them</dt>
      <dd>{joined}</dd>{/if}
    {#if n("already") > 0}<dt>Here already, unchanged</dt>
      <dd>{n("already")}</dd>{/if}
    {#if look.out.length > 0}<dt>Left out</dt>
      <dd>{look.out.length}</dd>{/if}
    {#if n("refused") > 0}<dt class="att">Refused</dt>
      <dd class="att">{n("refused")}</dd>{/if}
  </dl>
</section>
{#if look.results && look.files.some((f) => f.id === look.results)}
  <OneFile {batch} id={look.results} name={look.files.find((f) => f.id === look.results)!.file} />
{/if}
<section aria-label="Where they go">
  <h2>They go into</h2>
  <dl>
    <dt>Batch</dt>
    <dd>{batch.name}</dd>
    <dt>Processed with</dt>
    <dd>{batch.version.name}, version {batch.version.number}</dd>
  </dl>
  {#if lacking > 0}<p class="note">
      {lacking} do not say everything of their injection; what is missing can be typed in the run list.
    </p>{/if}
  {#if joined > 0}<p class="note">Joined are files of the same name up to its last part that started within 10 s.</p>{/if}
  {#if taken.length === 0 && look.files.length > 0 && look.coming.length === 0}
    <p class="lede">None of them can be taken in.</p>
  {/if}
  <p class="acts">
    {#if taken.length > 0}<button
        class="btn pri"
        disabled={look.coming.length > 0}
        title="Takes in what is ticked"
        onclick={() => look.take()}>Take in {taken.length} <kbd>Enter</kbd></button
      >{/if}
    <button class="btn" title="Nothing was kept of them" onclick={() => look.putBack()}>Put all back <kbd>Esc</kbd></button>
  </p>
  <p class="note">
    {mb} MB. The files stay as they came and can be handed back byte for byte; taking the same files in again adds nothing.
  </p>
</section>

<style>
  dl {
    display: grid;
    grid-template-columns: 1fr auto;
    font-size: 12.5px;
    line-height: 23px;
  }
  dt,
  dd {
    border-bottom: 1px solid var(--mist-1);
  }
  dd {
    text-align: right;
    font-weight: 600;
  }
  .acts {
    display: flex;
    gap: 8px;
    padding: 8px 0;
  }
</style>
