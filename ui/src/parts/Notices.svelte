<script lang="ts">
  import type { Batch, Notice, Result } from "../api/client";
  import { desk } from "../state/desk.svelte";
  import { place, type Station } from "../state/place.svelte";
  import { reason } from "../state/reason.svelte";
  import Mark, { markOf } from "./Mark.svelte";

  let { batch, result, station, most = 4 }: { batch: Batch; result: Result | undefined; station?: Station; most?: number } = $props();
  let all = $state(false);

  const open = $derived((result?.notices ?? []).filter((n) => (!station || n.station === station) && !batch.settled.includes(n.key)));
  /** A number and its percent sign stay on one line. */
  const unbroken = (text: string) => text.replace(/(\d) %/g, "$1\u00a0%");
  const shown = $derived(all ? open : open.slice(0, most));

  function follow(n: Notice) {
    place.go({
      station: n.station as Station,
      query: { i: n.injection_id ?? place.query.i, c: n.compound_id ?? place.query.c },
    });
  }
  async function settle(n: Notice) {
    const why = await reason.ask("Settle this notice", `${n.subject}: ${n.text}`, true);
    if (why) await desk.settle(n.key, why);
  }
</script>

<section aria-label="Notices">
  <h2>Notices <span class="r">{open.length}{station ? ` on ${station}` : " in this batch"}</span></h2>
  {#each shown as n (n.key)}
    <div class="ntc" class:know={n.weight === "know"}>
      <span class="fl"><Mark name={markOf(n.kind)} /></span>
      <button class="what" onclick={() => follow(n)}><b>{n.subject}:</b> {unbroken(n.text)}</button>
      <button class="settle" title="Settle with a reason" aria-label="Settle {n.subject}: {n.text}" onclick={() => settle(n)}>settle</button
      >
      <button class="arrow" aria-label="Go to {n.subject}" onclick={() => follow(n)}>
        <svg
          width="11"
          height="9"
          viewBox="0 0 11 9"
          fill="none"
          stroke="currentColor"
          stroke-width="1.2"
          stroke-linecap="round"
          stroke-linejoin="round"><path d="M.8 4.5H9.6M6.4 1.2L9.8 4.5L6.4 7.8" /></svg
        >
      </button>
    </div>
  {:else}
    <p class="note">{result ? "Nothing here wants your eyes." : "Not processed yet."}</p>
  {/each}
  {#if open.length > most}
    <button class="lnk more" onclick={() => (all = !all)}>{all ? "fewer" : `and ${open.length - most} more`}</button>
  {/if}
</section>

<style>
  .ntc {
    display: grid;
    grid-template-columns: 18px 1fr auto auto;
    gap: 2px 6px;
    padding: 6px 0 7px;
    border-bottom: 1px solid var(--mist-1);
    font-size: 12.5px;
    line-height: 1.35;
    align-items: start;
  }
  .ntc:last-of-type {
    border-bottom: 0;
  }
  .fl {
    color: var(--kaki);
    padding-top: 1px;
  }
  .know .fl {
    color: var(--ochre);
  }
  .what {
    text-align: left;
  }
  b {
    font-weight: 500;
  }
  .settle {
    font-size: 12px;
    color: var(--ink-3);
    visibility: hidden;
  }
  .ntc:hover .settle,
  .settle:focus-visible {
    visibility: visible;
  }
  .arrow {
    color: var(--ai);
    padding: 4px 0;
  }
  .more {
    font-size: 12px;
    margin-top: 5px;
  }
</style>
