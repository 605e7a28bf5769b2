<script lang="ts">
  // Files on their way in, each a cell with its silhouette: what is in, what waits, what was refused.
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { desk } from "../../state/desk.svelte";
  import { underway } from "../../state/underway.svelte";
  import Mark from "../../parts/Mark.svelte";
  import { intake, type Coming } from "./intake.svelte";

  let { batch }: { batch: string } = $props();
  $effect(() => {
    underway.seen = batch;
    return () => (underway.seen = "");
  });
  let at = $state(0);
  let field = $state<HTMLElement>();
  const files = $derived(intake.files);
  const share = $derived(files.length ? intake.ended / files.length : 0);
  const left = $derived.by(() => {
    const s = intake.leftS;
    if (s === undefined) return "";
    return s < 90 ? `about ${Math.max(1, Math.round(s))} s left` : `about ${Math.round(s / 60)} min left`;
  });

  const kind = (f: Coming) =>
    f.status === "added" || f.status === "joined" ? (f.message && f.status === "added" ? "doubt" : "in") : f.status;
  const says: Record<ReturnType<typeof kind>, string> = {
    waiting: "waits to be sent",
    sending: "is being sent",
    coming: "waits",
    in: "is in",
    doubt: "is in, with something to know",
    already: "is here already",
    refused: "is refused",
    stopped: "was stopped",
  };

  /** The silhouette as a line over the cell; flat where there is none. */
  function line(f: Coming): string {
    const h = f.silhouette;
    if (!h?.length || f.status === "refused") return "M0 19H56";
    const low = Math.min(...h);
    return Array.from(h, (v, k) => `${k ? "L" : "M"}${((k / (h.length - 1)) * 56).toFixed(1)} ${(19 - (v - low) * 15).toFixed(1)}`).join(
      "",
    );
  }

  async function open(f: Coming | undefined) {
    if (!f?.injection) return;
    await desk.reread();
    place.go({ station: "traces", query: { i: f.injection, mode: "one" } });
  }

  function step(by: number) {
    at = Math.max(0, Math.min(files.length - 1, at + by));
    field?.querySelectorAll<HTMLElement>(".silhouette")[at]?.scrollIntoView({ block: "nearest" });
  }
  function nextRefused(way: number) {
    for (let k = at + way; k >= 0 && k < files.length; k += way) if (["refused", "doubt"].includes(kind(files[k]!))) return step(k - at);
  }
  const across = () => {
    const cells = [...(field?.querySelectorAll<HTMLElement>(".silhouette") ?? [])];
    return Math.max(1, cells.filter((c) => c.offsetTop === cells[0]?.offsetTop).length);
  };
  $effect(() =>
    keys({
      j: () => step(1),
      k: () => step(-1),
      "]": () => nextRefused(1),
      "[": () => nextRefused(-1),
      Enter: () => void open(files[at]),
      Escape: () => void intake.stop(),
    }),
  );
  function arrows(e: KeyboardEvent) {
    const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: across(), ArrowUp: -across() }[e.key];
    if (!by) return;
    e.preventDefault();
    step(by);
  }
</script>

<div class="head">
  <h1>Taking in</h1>
  <span class="note">{files.length} files · in the order of their names · what is in can be opened already</span>
  <span class="left num">{left}</span>
</div>
<div
  class="bar"
  style:--share={share}
  role="progressbar"
  aria-label="Taken in"
  aria-valuemin="0"
  aria-valuemax={files.length}
  aria-valuenow={intake.ended}
></div>
<div class="lot" bind:this={field} role="listbox" aria-label="Files on their way in" tabindex="0" onkeydown={arrows}>
  {#each files as f, k (k)}
    {@const is = kind(f)}
    <div
      class="silhouette {is}"
      class:at={k === at}
      role="option"
      tabindex="-1"
      aria-selected={k === at}
      aria-label="{f.name} {says[is]}"
      title="{f.name} {says[is]}{f.message ? `: ${f.message}` : ''}"
      onclick={() => (at = k)}
      ondblclick={() => void open(f)}
      onkeydown={(e) => {
        if (e.key === " ") at = k;
      }}
    >
      <svg viewBox="0 0 56 20" preserveAspectRatio="none" aria-hidden="true"><path d={line(f)} /></svg>
      {#if is === "refused" || is === "doubt"}<i><Mark name="look" /></i>{/if}
    </div>
  {/each}
</div>

<style>
  .left {
    margin-left: auto;
    font-size: 12.5px;
    color: var(--ink-2);
  }
  .bar {
    height: 3px;
    flex: none;
    margin: 4px 12px 12px 16px;
    background: linear-gradient(var(--ai) 0 0) 0 0 / calc(var(--share) * 100%) 100% no-repeat var(--mist-2);
    transition: background-size 0.3s linear;
  }
  .lot {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(56px, 1fr));
    gap: 7px 8px;
    align-content: start;
    flex: 1;
    overflow: auto;
    padding: 4px 12px 12px 16px;
    min-height: 0;
  }
  .silhouette {
    position: relative;
    height: 21px;
  }
  .silhouette.at {
    outline: 1px solid var(--ai);
    outline-offset: 2px;
  }
  svg {
    width: 100%;
    height: 20px;
    display: block;
    overflow: visible;
  }
  path {
    fill: none;
    stroke: var(--mist-3);
    stroke-width: 1;
    stroke-dasharray: 1 2.5;
    vector-effect: non-scaling-stroke;
  }
  .in path,
  .doubt path {
    stroke: var(--ink-2);
    stroke-dasharray: none;
    stroke-width: 1.1;
  }
  .sending path {
    stroke: var(--ai);
    stroke-dasharray: none;
  }
  .already path {
    stroke: var(--ink-3);
  }
  .refused path {
    stroke: var(--kaki);
    stroke-dasharray: none;
  }
  i {
    position: absolute;
    right: 0;
    top: -3px;
    color: var(--ochre-text);
    transform: scale(0.75);
  }
  .refused i {
    left: 0;
    right: 0;
    margin: auto;
    width: 14px;
    color: var(--kaki);
    transform: none;
  }
</style>
