<script lang="ts">
  // A batch on the shelf: what it is, what wants eyes in it, when it changed; renamed and put away in place.
  import { answer, api, type Study } from "../../api/client";
  import { count } from "../../look/number";
  import { queries } from "../../state/ask";
  import { place } from "../../state/place.svelte";
  import { who } from "../../state/who.svelte";

  let {
    batch,
    open,
  }: { batch: Study["batches"][number]; /** Notices nobody has settled; undefined where nobody has looked. */ open: number | undefined } =
    $props();
  let renaming = $state(false);
  let trouble = $state("");
  let field = $state<HTMLInputElement>();
  $effect(() => field?.select());

  /** "just now", "12 min ago", "3 h ago", then the day. */
  function ago(t: string): string {
    const min = (Date.now() - new Date(t).getTime()) / 60_000;
    if (min < 1) return "just now";
    if (min < 60) return `${Math.floor(min)} min ago`;
    if (min < 24 * 60) return `${Math.floor(min / 60)} h ago`;
    return new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
  }
  async function change(body: { name?: string; away?: boolean }) {
    trouble = "";
    await who.sure();
    try {
      await answer(
        api.PATCH("/api/batches/{batch}/shelf", {
          params: { path: { batch: batch.id }, header: { "If-Match": `"${batch.revision}"` } },
          body: { name: body.name ?? null, away: body.away ?? null },
        }),
      );
      renaming = false;
      await queries.invalidateQueries({ queryKey: ["studies"] });
      await queries.invalidateQueries({ queryKey: ["batch", batch.id] });
    } catch (error) {
      trouble = (error as Error).message;
    }
  }
</script>

<div class="batch" class:away={batch.away}>
  {#if renaming}
    <form
      onsubmit={(e) => {
        e.preventDefault();
        const name = field!.value.trim();
        if (name === batch.name) renaming = false;
        else void change({ name });
      }}
    >
      <input
        class="field"
        aria-label="Name of the batch"
        bind:this={field}
        value={batch.name}
        maxlength="200"
        onkeydown={(e) => e.key === "Escape" && (renaming = false)}
        onblur={() => !trouble && (renaming = false)}
      />
    </form>
  {:else}
    <a
      class="bname"
      href="/{batch.id}/batch"
      title={batch.name}
      onclick={(e) => (e.preventDefault(), place.go({ batch: batch.id, station: "batch", query: { i: "", c: "", face: "" } }))}
      >{batch.name}</a
    >
    {#if open}<span class="open" title="{count(open, 'notice')} that nobody has settled">{open}</span>{/if}
  {/if}
  <span class="acts">
    <button class="lnk" title="Gives the batch another name" onclick={() => (renaming = true)}>rename</button>
    <button
      class="lnk"
      title={batch.away ? "Puts it back among the others" : "Takes it out of sight; it stays as it is"}
      onclick={() => change({ away: !batch.away })}>{batch.away ? "take out" : "put away"}</button
    >
  </span>
  <span class="mut about"
    >{count(batch.injections, "injection")}{batch.reported ? ", reported" : ""} ·
    <time datetime={batch.changed_at} title="{new Date(batch.changed_at).toLocaleString('en-GB')}, {batch.changed_by}"
      >{ago(batch.changed_at)}</time
    ></span
  >
</div>
{#if trouble}<p class="att" role="alert">{trouble}</p>{/if}

<style>
  .batch {
    display: flex;
    align-items: baseline;
    gap: 8px;
    min-height: 28px;
    padding: 2px 0;
    border-bottom: 1px solid var(--mist-1);
  }
  .bname {
    min-width: 60px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    line-height: 24px;
  }
  .away .bname {
    color: var(--ink-3);
  }
  form,
  form .field {
    flex: 1;
    width: 100%;
  }
  .open {
    font-size: 11px;
    font-weight: 600;
    color: var(--kaki-text);
  }
  .acts {
    margin-left: auto;
    display: flex;
    gap: 10px;
    font-size: 12px;
    opacity: 0;
  }
  .batch:hover .acts,
  .batch:focus-within .acts {
    opacity: 1;
  }
  .acts button {
    min-height: 24px;
    white-space: nowrap;
  }
  .about {
    white-space: nowrap;
    font-size: 12.5px;
  }
</style>
