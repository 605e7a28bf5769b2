<script lang="ts">
  // A batch on the shelf: what it needs, its run, what it is, what it waits for, and who had it last; renamed and put away in place.
  import { answer, api } from "../../api/client";
  import { count } from "../../look/number";
  import { queries } from "../../state/ask";
  import { place } from "../../state/place.svelte";
  import { session } from "../../state/session.svelte";
  import { who } from "../../state/who.svelte";
  import Seal from "../Seal.svelte";
  import RunRidge from "./RunRidge.svelte";
  import { ago, type AtBench, type Listed, type Need } from "./shelf";

  let {
    batch,
    bench,
    need,
    named,
    open,
    first,
    drawn,
  }: {
    batch: Listed;
    /** What an instrument does for it now. */ bench: AtBench | undefined;
    need: Need;
    /** The need is named: it is the first row with it. */
    named: boolean;
    /** Notices nobody has settled; undefined where nobody has looked. */ open: number | undefined;
    first: string;
    drawn: boolean;
  } = $props();
  let renaming = $state(false);
  let trouble = $state("");
  let field = $state<HTMLInputElement>();
  $effect(() => field?.select());

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
  const go = () =>
    place.go({
      batch: batch.id,
      station: need.kind === "review" || need.kind === "back" ? "review" : "batch",
      query: { i: "", c: "", face: "" },
    });
  const may = $derived(!session.signsIn || session.may("put away"));
</script>

<div class="batch" class:away={batch.away} data-batch={batch.id}>
  <span class="need {need.kind}"
    >{#if need.kind === "eyes"}<svg width="13" height="12" viewBox="0 0 13 12" aria-hidden="true"
        ><path d="M6.5 1L12.3 11H.7ZM6.5 4.6V7.4M6.5 9V9.4" /></svg
      >{:else if need.kind === "running"}<svg width="13" height="12" viewBox="0 0 13 12" aria-hidden="true"
        ><path d="M2 11V6M6.5 11V1M11 11V4" /></svg
      >{:else if need.kind === "back"}<svg width="13" height="12" viewBox="0 0 13 12" aria-hidden="true"
        ><path d="M5 2L1.5 5.5L5 9M1.5 5.5H12V10" /></svg
      >{:else if batch.signing}<Seal filled={batch.signing === "signed"} />{/if}{#if named || batch.signing === "signed"}{need.word ||
        batch.signing}{/if}</span
  >
  <span class="ridge"
    >{#if drawn}<RunRidge
        {batch}
        attention={need.kind === "eyes" || need.kind === "back" || bench?.wants === true}
        toCome={bench?.toCome ?? 0}
      />{/if}</span
  >
  <span class="what">
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
      <a class="bname" href="/{batch.id}/batch" title={batch.name} onclick={(e) => (e.preventDefault(), go())}>{batch.name}</a>
    {/if}
    <span class="mut line" title="{batch.study} · {batch.method}, version {batch.version}"
      >{batch.study} · {batch.method}, version {batch.version}</span
    >
  </span>
  <span class="waits">
    {#if bench}<span class="line" class:att={bench.wants} title={bench.says}>{bench.says}</span>
    {:else if open}<span class="line" title={first}>{count(open, "notice")}: <b>{first}</b></span>
    {:else if need.kind === "review"}<span class="line">for anyone who reviews</span>
    {:else}<span class="line mut"
        >{batch.signing === "signed"
          ? "nothing in it changes"
          : !batch.injections
            ? "no files yet"
            : open === undefined
              ? "its results are not made yet"
              : "nothing open"}</span
      >{/if}
    <span class="mut line"
      >{[!bench || batch.injections > 0 ? count(batch.injections, "injection") : "", batch.reported ? "reported" : "", bench?.then]
        .filter(Boolean)
        .join(", ")}
      <span class="acts">
        {#if may && batch.signing !== "signed"}<button class="lnk" title="Gives the batch another name" onclick={() => (renaming = true)}
            >rename</button
          >{/if}
        {#if may}<button
            class="lnk"
            title={batch.away ? "Puts it back among the others" : "Takes it out of sight; it stays as it is"}
            onclick={() => change({ away: !batch.away })}>{batch.away ? "take out" : "put away"}</button
          >{/if}
      </span></span
    >
  </span>
  <span class="last"
    ><span class="line">{batch.changed_by}</span>
    <time class="mut" datetime={batch.changed_at} title={new Date(batch.changed_at).toLocaleString("en-GB")}>{ago(batch.changed_at)}</time
    ></span
  >
</div>
{#if trouble}<p class="att" role="alert">{trouble}</p>{/if}

<style>
  .batch {
    display: grid;
    grid-template-columns: 108px 196px minmax(0, 1.15fr) minmax(0, 1fr) 96px;
    gap: 0 8px;
    align-items: center;
    min-height: 42px;
    padding: 1px 0;
    border-bottom: 1px solid var(--mist-1);
  }
  .batch:hover {
    background: color-mix(in oklab, var(--mist-1) 40%, var(--paper));
  }
  @media (max-width: 1100px) {
    .batch {
      grid-template-columns: 116px minmax(0, 1fr) minmax(0, 1fr) 96px;
    }
    .ridge {
      display: none;
    }
  }
  .need {
    display: flex;
    gap: 6px;
    align-items: center;
    font-size: 12.5px;
    color: var(--ink-2);
  }
  .need svg {
    fill: none;
    stroke: currentColor;
    stroke-width: 1.3;
    flex: none;
  }
  .need.eyes,
  .need.back {
    color: var(--kaki-text);
  }
  .need.running {
    color: var(--ai);
  }
  .what,
  .waits,
  .last {
    display: grid;
    min-width: 0;
  }
  .last {
    text-align: right;
    font-size: 12.5px;
  }
  .line {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 12.5px;
    line-height: 17px;
  }
  .line b {
    font-weight: 500;
  }
  .mut {
    color: var(--ink-2);
  }
  .bname {
    font: 500 15.5px/24px var(--f-read);
    color: var(--ink);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .away .bname {
    color: var(--ink-3);
  }
  form .field {
    width: 100%;
  }
  .acts {
    display: none;
    gap: 10px;
    margin-left: 10px;
    font-size: 12px;
  }
  .acts button {
    min-height: 17px;
  }
  .batch:hover .acts,
  .batch:focus-within .acts {
    display: inline-flex;
  }
</style>
