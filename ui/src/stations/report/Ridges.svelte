<script lang="ts">
  // How far the making is, as the run itself: a ridge inks over as its report is made; one that is held back is dashed.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, ReportFile } from "../../api/client";
  import { ask } from "../../state/ask";

  let { batch, lines, working, made, files }: { batch: Batch; lines: ReportFile[][]; working: boolean; made: number; files: number } =
    $props();
  const ridges = createQuery(() => ask.ridges(batch.id, batch.injections.length, batch.version.id));
  const byId = $derived(new Map((ridges.data ?? []).map((r) => [r.injection_id, r.heights])));
  const highest = $derived(Math.max(1e-9, ...(ridges.data ?? []).map((r) => Math.max(...r.heights))));
  let wide = $state(600);
  const tall = 36;
  const subjects = $derived(lines.filter((l) => !l[0]!.joined));
  const room = $derived(wide / Math.max(1, subjects.length));
  /** Of one subject the worst of its formats is told; done is when all are made. */
  const stateOf = (line: ReportFile[]) =>
    line.some((f) => f.state === "failed" || f.state === "held") ? "held" : line.every((f) => f.state === "made") ? "made" : "waits";
  function path(line: ReportFile[], k: number): string {
    const f = line[0]!;
    const id = f.injection_id || f.injections[0] || batch.injections.find((i) => i.name === f.sample && i.role === "sample")?.id;
    const heights = byId.get(id ?? "");
    if (!heights) return `M${k * room} ${tall - 2}h${room}`;
    return heights
      .map((v, j) => {
        const h = Math.pow(Math.max(0, v) / highest, 0.55) * (tall - 6);
        return `${j ? "L" : "M"}${(k * room + (j / (heights.length - 1)) * room).toFixed(1)} ${(tall - 2 - h).toFixed(1)}`;
      })
      .join("");
  }
  const at = $derived(subjects.findIndex((l) => stateOf(l) === "waits"));
</script>

<div
  class="ridges"
  role="progressbar"
  aria-label="Made"
  aria-valuemin="0"
  aria-valuemax={files}
  aria-valuenow={made}
  bind:clientWidth={wide}
>
  <svg width={wide} height={tall} aria-hidden="true">
    {#each subjects as line, k (line[0]!.position)}<path class={stateOf(line)} d={path(line, k)} />{/each}
    {#if working && at >= 0}<line x1={at * room} x2={at * room} y1="0" y2={tall} />{/if}
  </svg>
</div>

<style>
  .ridges {
    flex: none;
    margin: 2px 16px 6px;
    height: 36px;
  }
  svg {
    display: block;
  }
  path {
    fill: none;
    stroke: var(--mist-3);
    stroke-width: 1;
  }
  path.made {
    stroke: var(--ai);
  }
  path.held {
    stroke: var(--kaki);
    stroke-dasharray: 2 2;
  }
  line {
    stroke: var(--ink);
  }
</style>
