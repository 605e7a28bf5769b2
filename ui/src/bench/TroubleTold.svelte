<script lang="ts">
  // After trouble: what happened, by whom, and which compounds of the run are in doubt.
  import type { BenchPost, Live } from "../api/client";
  import { createQuery } from "@tanstack/svelte-query";
  import { ask } from "../state/ask";
  import { place } from "../state/place.svelte";
  import { reason } from "../state/reason.svelte";
  import { bench, clock } from "./bench.svelte";

  let { post, live }: { post: BenchPost; live: Live | undefined } = $props();
  const stand = $derived(post.state!);
  const trouble = $derived(stand.trouble!);
  const row = $derived(post.list?.rows.find((r) => r.id === trouble.row_id));
  const number = $derived(stand.rows.findIndex((r) => r.id === trouble.row_id) + 1);
  const sound = $derived(stand.rows.filter((r) => r.state === "done").length);
  const waiting = $derived(stand.rows.filter((r) => r.state === "waits").length);
  const told = createQuery(() => ({ ...ask.troubles(trouble.at), refetchInterval: 3000 }));
  /** All but the one that is looked at, which the record has too, if a moment later. */
  const before = $derived.by(() => {
    const list = told.data ?? [];
    const own = list.findIndex((t) => t.instrument === post.name && t.says === trouble.says);
    return list.filter((_, k) => k !== own).slice(0, 5);
  });
  /** The injection before it that is in the batch, to be held against it. */
  const previous = $derived(post.list?.rows.slice(0, number - 1).findLast((r) => r.injection_id && !r.doubtful));
  const day = (t: string) => new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short" });
  async function take() {
    const why = await reason.ask(`Take ${row!.name} as it is`, "What is in doubt counts again in means and on pages.", true);
    if (why) await bench.taken(post.list!.batch_id, row!.injection_id, why);
  }
</script>

<div class="told">
  <section aria-label="What happened">
    <div class="hd">
      <h2>What happened</h2>
      <span class="note">now {clock(stand.at)}</span>
    </div>
    <div class="list">
      {#each trouble.happened as h, i (i)}<p>
          <span class="t mut">{clock(h.at, true)}</span><span class="mut by">{h.by}</span><span>{h.says}</span>
        </p>{/each}
    </div>
    <p class="note">All of it is in the record.</p>
    {#if before.length > 0}
      <div class="hd">
        <h2>Trouble before</h2>
        <span class="note">as the record has it</span>
      </div>
      <div class="list">
        {#each before as t, k (k)}<p>
            <span class="t mut">{day(t.at)}</span><span class="mut by">{t.instrument}</span><span>{t.says}</span>
          </p>{/each}
      </div>
    {/if}
  </section>
  <section aria-label="Which injections are doubtful">
    <div class="hd">
      <h2>Which injections are doubtful</h2>
      <span class="note">{sound} sound, {row?.doubtful ? 1 : 0} doubtful, {waiting} not begun</span>
    </div>
    {#if row?.injection_id}
      <table aria-label="Doubtful compounds">
        <thead><tr><th>#</th><th class="l">Compounds</th><th class="l">Held to be</th></tr></thead>
        <tbody>
          {#each live?.doubted ?? [] as d, i (d.says + i)}<tr class:kaki={d.says !== "sound"}
              ><td class="num">{i === 0 ? number : ""}</td><td class="l w">{d.names.join(", ")}</td><td
                class="l"
                class:att={d.says !== "sound"}>{d.says}</td
              ></tr
            >{/each}
        </tbody>
      </table>
      <p class="note">
        {row.doubtful
          ? `${number} is kept out of means and pages until it is run again or taken as it is, with a reason. Its file keeps its hash.`
          : `${number} was taken as it is; the reason is in the record.`}
      </p>
      <p class="acts">
        <button
          class="lnk"
          title="Opens it where its peaks are (P)"
          onclick={() => place.go({ batch: post.list!.batch_id, station: "peaks", query: { i: row!.injection_id } })}
          >Open {number} in Peaks</button
        >
        {#if previous}<button
            class="lnk"
            title="Mirrors the two at the Traces station"
            onclick={() =>
              place.go({
                batch: post.list!.batch_id,
                station: "traces",
                query: { i: row!.injection_id, mode: "mirror", show: `${row!.injection_id},${previous!.injection_id}` },
              })}>Compare with {previous.name}</button
          >{/if}
        {#if row.doubtful}<button class="lnk" title="It counts again, with a reason" onclick={take}>Take it as it is</button>{/if}
      </p>
    {:else}<p class="note">Nothing was injected, so nothing is in doubt. The vial was not touched.</p>{/if}
  </section>
</div>

<style>
  .told {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 24px;
    min-height: 0;
    overflow-y: auto;
  }
  .hd {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    min-height: 28px;
  }
  .list p {
    display: grid;
    grid-template-columns: 62px 52px minmax(0, 1fr);
    border-bottom: 1px solid var(--mist-1);
    min-height: 24px;
    align-items: center;
    font-size: 12.5px;
  }
  table {
    width: 100%;
  }
  .w {
    white-space: normal;
  }
  tr.kaki td {
    background: var(--row-kaki);
  }
  .acts {
    display: flex;
    gap: 16px;
    min-height: 26px;
    align-items: center;
  }
</style>
