<script lang="ts">
  // The bench: may I leave, is it sound, when is it done, what must I do.
  import { createQuery } from "@tanstack/svelte-query";
  import Foot from "../parts/Foot.svelte";
  import PageBar from "../parts/PageBar.svelte";
  import AskReason from "../parts/AskReason.svelte";
  import { count } from "../look/number";
  import { ask } from "../state/ask";
  import { keys } from "../state/keys.svelte";
  import { place } from "../state/place.svelte";
  import { bench } from "./bench.svelte";
  import BenchBand from "./BenchBand.svelte";
  import BenchConditions from "./BenchConditions.svelte";
  import BenchRows from "./BenchRows.svelte";
  import BenchSide from "./BenchSide.svelte";
  import GettingReady from "./GettingReady.svelte";
  import NewList from "./NewList.svelte";
  import RunNow from "./RunNow.svelte";
  import TroubleTold from "./TroubleTold.svelte";
  import VentAsk from "./VentAsk.svelte";
  import Venting from "./Venting.svelte";

  const query = createQuery(() => ask.bench(700));
  const posts = $derived(query.data ?? []);
  // First the one that wants somebody, then one that runs.
  const likely = $derived(posts.find((p) => p.needs > 0) ?? posts.find((p) => p.state?.phase === "running") ?? posts[0]);
  let first = $state("");
  $effect(() => {
    if (!first && likely) first = likely.id;
  });
  const post = $derived(posts.find((p) => p.id === bench.chosen) ?? posts.find((p) => p.id === first));
  const live = createQuery(() => ask.live(post?.id ?? ""));
  const phase = $derived(post?.state?.phase);
  const writing = $derived(!post?.state?.vented && (bench.draft(post?.id ?? "").open || (post?.state && !post.list)));
  const free = $derived(phase === "resting");
  const running = $derived(posts.filter((p) => p.state?.phase === "running").length);
  let choice = $state("");
  $effect(() => {
    if (phase !== "stopped") choice = "";
    else if (!choice) choice = post?.state?.trouble?.choices[0]?.id ?? "";
  });
  const pointed = $derived(phase === "stopped" ? (post?.state?.trouble?.to_do ?? []) : (post?.state?.conditions ?? []));
  $effect(() =>
    keys({
      ...Object.fromEntries(posts.map((p, i) => [String(i + 1), () => (bench.chosen = p.id)])),
      y: () => {
        const c = pointed.find((k) => k.standing === "person" && k.looked);
        if (post && c) void bench.act(post.id, { kind: "looked", what: c.id });
      },
      a: () => document.querySelector<HTMLInputElement>("#bench-add")?.focus(),
      " ": () => {
        if (!post || !phase) return;
        if (phase === "ready" || phase === "paused") void bench.act(post.id, { kind: "begin" });
        else if (["running", "between"].includes(phase)) void bench.act(post.id, { kind: "pause_after" });
      },
      s: () => post && phase && ["running", "between"].includes(phase) && void bench.act(post.id, { kind: "stop_after" }),
      p: () => {
        const id = post?.list?.rows.findLast((r) => r.injection_id)?.injection_id;
        if (post?.list && id) place.go({ batch: post.list.batch_id, station: "peaks", query: { i: id } });
      },
      Enter: () => post && phase === "stopped" && choice && void bench.act(post.id, { kind: "go_on", choice }),
      "alt+0": () => place.home(),
    }),
  );
</script>

<div class="page">
  <PageBar><span class="note">{count(posts.length, "instrument")}, {running} running</span></PageBar>
  {#if query.isError}<p class="empty att" role="alert">{query.error.message}</p>
  {:else if query.isPending}<p class="empty note">Asking the instruments …</p>
  {:else if posts.length === 0}
    <main class="empty">
      <h1>No instrument is at hand</h1>
      <p>
        Start a stand-in with <code>yugen instrument --kind lc --port 8791 --speed 60</code>, and Yugen with
        <code>--instrument http://127.0.0.1:8791</code>. <code>make demo</code> brings three of them.
      </p>
      <p class="note">A real instrument is reached by a driver that speaks the protocol of docs/instruments.md.</p>
    </main>
  {:else}
    <BenchBand {posts} chosen={post?.id ?? ""} />
    <div class="stage">
      <main class="main" class:wide={writing} class:stopped={phase === "stopped"}>
        {#if !post?.state}
          <p class="empty note">{post?.name} does not answer. If it has a list, it goes on by itself; the list is in it.</p>
        {:else if writing}
          {#key post.id}<NewList {post} /><VentAsk {post} />{/key}
        {:else if post.state.vented}<Venting {post} vented={post.state.vented} />
        {:else}
          {#if free}<p class="free">
              <button class="btn" title="Writes a list for it" onclick={() => (bench.write(post.id).open = true)}>New list</button>
              <span class="note">{post.state.confirmed ? `The list has ended: ${post.state.confirmed}.` : "It is at rest."}</span>
            </p>{/if}
          <div class="picture" class:short={phase === "stopped" && post.state.trouble}>
            {#if phase === "preparing"}<GettingReady {post} />{:else}<RunNow {post} live={live.data} />{/if}
          </div>
          {#if phase === "stopped" && post.state.trouble}<TroubleTold {post} live={live.data} />{/if}
          <div class="tables" class:few={phase === "stopped"}>
            <BenchRows {post} />
            {#if phase !== "stopped"}<BenchConditions {post} />{/if}
          </div>
        {/if}
      </main>
      {#if post?.state && !writing}<BenchSide {post} bind:choice />{/if}
      <Foot
        hints={[
          [posts.map((_, i) => String(i + 1)).join("|"), "instrument"],
          ["Y", "I have looked"],
          ["A", "add to the end"],
          ["Space", "pause after this one"],
          ["S", "stop after this one"],
          ["P", "open what is done"],
        ]}>{post?.state?.waits ? "Its clock waits: nobody hears it" : "Each finished injection is processed at once"}</Foot
      >
    </div>
  {/if}
</div>
<AskReason />

<style>
  .page {
    display: grid;
    grid-template-rows: 41px auto minmax(0, 1fr);
    height: 100%;
  }
  .main {
    padding: 10px 16px 8px;
    gap: 8px;
  }
  .main :global(.title) {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    align-items: baseline;
    white-space: nowrap;
    overflow: hidden;
  }
  .main :global(.title h1) {
    font: 500 21px/1.35 var(--f-read);
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .main :global(.title h1 .note) {
    font: 400 12px/1.4 var(--f-ui);
  }
  .main :global(.graph .c1) {
    fill: var(--ochre-text);
  }
  .main :global(.graph .c2) {
    fill: var(--ai);
  }
  .main :global(.graph .c3) {
    fill: var(--moss);
  }
  .main :global(.graph .soft) {
    font-size: 11.5px;
    fill: var(--ink-3);
  }
  .main :global(.graph circle) {
    fill: var(--ink);
  }
  .main.wide {
    grid-column: 1 / -1;
  }
  .empty {
    padding: 24px 16px;
    display: grid;
    gap: 10px;
    align-content: start;
  }
  .picture {
    flex: 1 1 330px;
    min-height: 266px;
    display: grid;
    grid-template-rows: auto minmax(120px, 1fr) auto;
  }
  .tables {
    flex: 0 1 260px;
    min-height: 110px;
    display: grid;
    grid-template-columns: 1.28fr 1fr;
    grid-template-rows: minmax(0, 1fr);
    gap: 24px;
    overflow: hidden;
  }
  .tables.few {
    flex-basis: 130px;
    grid-template-columns: 1fr;
  }
  /* In a low window an account keeps its room, and all of it is scrolled. */
  @media (max-height: 740px) {
    .main.stopped {
      overflow-y: auto;
    }
    .main.stopped > :global(*) {
      flex: none;
    }
    .main.stopped .picture {
      height: 250px;
    }
    .main.stopped .tables {
      overflow: visible;
    }
  }
  .free {
    display: flex;
    gap: 12px;
    align-items: center;
  }
  @container main (max-width: 920px) {
    .tables {
      grid-template-columns: 1fr;
      grid-template-rows: none;
      grid-auto-rows: max-content;
      overflow-y: auto;
    }
  }
</style>
