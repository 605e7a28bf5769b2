<script lang="ts">
  // What a draft would change, with the derivation of one number by it; kept or discarded as a whole.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Method } from "../../api/client";
  import { ask } from "../../state/ask";
  import { keys } from "../../state/keys.svelte";
  import Derivation from "./Derivation.svelte";
  import { draft } from "./draft.svelte";

  let { batch, method, injection, compound }: { batch: Batch; method: Method; injection: string; compound: string } = $props();
  const trial = createQuery(() => ask.tryMethod(batch.id, batch.revision, { method, injection_id: injection, compound_id: compound }));
  const t = $derived(trial.data);
  const of = (n: number, one: string, more: string) => `${n} ${n === 1 ? one : more}`;
  const effects = $derived(
    t
      ? [
          t.moved && of(t.moved, "mean becomes another", "means become others"),
          t.gained && of(t.gained, "appears", "appear"),
          t.lost && `${of(t.lost, "is", "are")} there no longer`,
          t.curves && of(t.curves, "curve is made anew", "curves are made anew"),
        ].filter(Boolean)
      : [],
  );
  const shut = $derived(!t || !!t.problem || trial.isPlaceholderData);
  $effect(() => keys({ Enter: () => !shut && draft.keep(batch), Escape: () => draft.discard(), "mod+z": () => draft.discard() }));
</script>

<section aria-label="Previewing">
  <h2 class="att">Previewing</h2>
  {#if trial.isError}<p class="att" role="alert">{trial.error.message}</p>
  {:else if !t}<p class="note">Trying it …</p>
  {:else if t.problem}<p class="att" role="alert">{t.problem}</p>
  {:else}
    <p>If kept: {effects.length ? effects.join(", ") : "no number changes"}.</p>
    <p class="note">
      Reports that are kept stay as they are.{t.batches
        ? ` ${of(t.batches, "other batch uses", "other batches use")} version ${batch.version.number}, which stays; this makes a new one.`
        : ""}
    </p>
  {/if}
  <p class="do">
    <button class="btn pri" disabled={shut} title="Keeps it as a new version of the method" onclick={() => draft.keep(batch)}
      >Keep <kbd>Enter</kbd></button
    >
    <button class="btn" title="Goes back to what is kept" onclick={() => draft.discard()}>Discard <kbd>Esc</kbd></button>
  </p>
</section>
{#if t?.working && !t.problem}
  <section aria-label="Working">
    <h2>Working <span class="r">by what is tried</span></h2>
    <Derivation working={t.working} />
  </section>
{/if}

<style>
  .do {
    display: flex;
    gap: 10px;
    margin-top: 10px;
  }
</style>
