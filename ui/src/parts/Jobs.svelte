<script lang="ts">
  // What is worked on and what was: a panel from the top bar. Work goes on whether it is open or not.
  import { Popover, Portal } from "@skeletonlabs/skeleton-svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { count } from "../look/number";
  import { ask } from "../state/ask";
  import { copied } from "../state/copying";
  import { place } from "../state/place.svelte";
  import { about, left, underway } from "../state/underway.svelte";
  import { jobsPanel } from "./jobs.svelte";

  const query = createQuery(() => ({ ...ask.jobs(), enabled: jobsPanel.open, refetchInterval: jobsPanel.open ? 800 : false }));
  const all = $derived(query.data ?? []);
  const now = $derived(all.filter((j) => j.ended === null && j.state !== "waiting"));
  const waiting = $derived(all.filter((j) => j.state === "waiting"));
  const lately = $derived(all.filter((j) => j.ended !== null));
  const outcome: Record<string, string> = {
    done: "done",
    stopped: "stopped; nothing more was written",
    failed: "failed; nothing was written",
  };
  const today = (t: string) => new Date(t).toDateString() === new Date().toDateString();
  const clock = (t: string) =>
    today(t)
      ? new Date(t).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })
      : new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short" });
  const named = $derived(place.batch ? [`yugen again ${place.batch} --version newest`, `POST /api/batches/${place.batch}/process`] : []);
  const lines = $derived([
    "yugen jobs",
    "GET /api/jobs",
    ...named,
    ...now.slice(0, 1).flatMap((j) => [`yugen jobs --stop ${j.id}`, `POST /api/jobs/${j.id}/stop`]),
  ]);
  function show(batch: string, job: string) {
    jobsPanel.open = false;
    place.go({ batch, station: "results", query: { face: "changed", job } });
  }
  let taken = $state("");
  /** What a job that has ended leads to; undefined where that is nothing. */
  function follow(j: (typeof all)[number]): (() => void) | undefined {
    if (!j.batch_id || j.state !== "done") return undefined;
    if (j.kind === "process") return () => show(j.batch_id!, j.id);
    return () => {
      jobsPanel.open = false;
      place.go({ batch: j.batch_id!, station: j.kind === "results" ? "results" : "batch", query: {} });
    };
  }
  /** Arrows go from job to job; what is done with one is done by a key, too. */
  function key(e: KeyboardEvent) {
    const rows = [...(e.currentTarget as Element).querySelectorAll<HTMLElement>("[data-job]")];
    const at = rows.findIndex((r) => r.contains(document.activeElement));
    if (e.key === "ArrowDown" || e.key === "ArrowUp") {
      rows[Math.max(0, Math.min(rows.length - 1, at + (e.key === "ArrowDown" ? 1 : -1)))]?.focus();
      e.preventDefault();
      return;
    }
    const job = all.find((j) => j.id === rows[at]?.dataset["job"]);
    if (!job || (e.target as Element).closest("button")) return;
    if (e.key === " " && job.state === "paused") void underway.ask(job, "continue");
    else if (e.key === " " && job.pausable && job.ended === null) void underway.ask(job, "pause");
    else if (e.key === "Delete" && job.ended === null) void underway.ask(job, "stop");
    else if (e.key === "Enter") follow(job)?.();
    else return;
    e.preventDefault();
  }
</script>

{#if underway.live.length > 0 || jobsPanel.open}
  <Popover open={jobsPanel.open} onOpenChange={(d) => (jobsPanel.open = d.open)} positioning={{ placement: "bottom-end" }}>
    <Popover.Trigger class="jobs-word" title="What is worked on, and what was lately"
      >{underway.live.length > 0 ? count(underway.live.length, "job") : "Jobs"}</Popover.Trigger
    >
    <Portal>
      <Popover.Positioner>
        <Popover.Content class="jobs-panel" aria-label="Jobs">
          <!-- svelte-ignore a11y_no_static_element_interactions (each job takes the focus; its buttons do the same) -->
          <div class="work" onkeydown={key}>
            <h2>Now</h2>
            {#each now as j (j.id)}
              <div class="job" data-job={j.id} tabindex="-1">
                <p><b>{about(j)}</b><span class="mut">{left(j)}</span></p>
                <span class="line" style:--done={j.total ? j.done / j.total : 0} class:open={!j.total}></span>
                <p>
                  <span class="note">{j.total ? `${j.done} of ${j.total}` : "reckoning"}{j.who ? `, for ${j.who}` : ""}</span>
                  <span class="do">
                    {#if j.state === "paused"}<button class="lnk" title="Goes on where it was" onclick={() => underway.ask(j, "continue")}
                        >Continue</button
                      >{:else if j.pausable}<button
                        class="lnk"
                        title="Stands at its next step; its place goes to another"
                        onclick={() => underway.ask(j, "pause")}>Pause</button
                      >{/if}
                    <button class="lnk" title="What is there stays as it is" onclick={() => underway.ask(j, "stop")}>Cancel</button>
                  </span>
                </p>
                {#if j.kind === "process"}<p class="note">
                    The present results stay as they are; what would change is told at the end.
                  </p>{/if}
              </div>
            {:else}<p class="note">{query.isPending ? "Asking …" : "Nothing is being worked on."}</p>{/each}
            {#if waiting.length > 0}<h2>Waits</h2>
              {#each waiting as j (j.id)}<p class="job" data-job={j.id} tabindex="-1">
                  <span>{about(j)}</span><span class="note">{j.first ? "goes next" : "until another of its kind has ended"}</span>
                  {#if !j.first && waiting.length > 1}<button
                      class="lnk"
                      title="Before the others that wait"
                      onclick={() => underway.ask(j, "first")}>Put first</button
                    >{/if}
                  <button class="lnk" title="It is not begun" onclick={() => underway.ask(j, "stop")}>Cancel</button>
                </p>{/each}{/if}
            {#if place.batch}<p class="job again">
                <span class="note">With another version of its method, or the same</span>
                <button class="lnk" title="What would change is told before it is taken" onclick={() => show(place.batch, "")}
                  >Process this batch once more</button
                >
              </p>{/if}
            <h2>Lately <span class="note">kept for 90 days</span></h2>
            {#each lately.slice(0, 8) as j (j.id)}<p class="job late" data-job={j.id} tabindex="-1">
                <span class="mut">{clock(j.ended ?? j.since)}</span>
                <span
                  >{about(j)}<span class="note came">
                    {j.outcome ?? (j.state === "failed" ? (j.message ?? outcome["failed"]) : outcome[j.state])}</span
                  ></span
                >
                {#if follow(j)}<button
                    class="lnk"
                    title={j.kind === "process" ? "What the version makes of it, beside its present results" : "Opens the batch"}
                    onclick={follow(j)}>{j.kind === "process" ? "What changes" : "Open"}</button
                  >{/if}
              </p>{:else}<p class="note">Nothing has ended yet.</p>{/each}
            {#if all.length > 0}<p class="note keys">
                <kbd>↑</kbd> <kbd>↓</kbd> job <kbd>Space</kbd> pause, go on <kbd>Delete</kbd> cancel <kbd>Enter</kbd> what came of it
              </p>{/if}
          </div>
          <div class="script">
            <h2>The same from a script</h2>
            {#each lines as line (line)}<p>
                <code title={line}>{line}</code>
                <button class="lnk" title="Copies this line" onclick={() => void copied(line).then((done) => done && (taken = line))}
                  >{taken === line ? "copied" : "copy"}</button
                >
              </p>{/each}
            <p class="note">
              Asking twice gives the same job, not a second one. What was cut off goes on by itself when Yugen starts again.
            </p>
          </div>
        </Popover.Content>
      </Popover.Positioner>
    </Portal>
  </Popover>
{/if}

<style>
  :global(.jobs-word) {
    line-height: 40px;
    margin-right: 14px;
    color: var(--ink-2);
    white-space: nowrap;
  }
  :global(.jobs-panel) {
    background: var(--paper);
    border: 1px solid var(--ink-3);
    z-index: 30;
    width: min(780px, 96vw);
    max-height: 76vh;
    overflow-y: auto;
    display: grid;
    grid-template-columns: 1fr 290px;
  }
  .work,
  .script {
    padding: 12px 16px;
    min-width: 0;
  }
  .script {
    background: var(--paper-2);
  }
  .script p {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    min-height: 26px;
    align-items: center;
  }
  code {
    font: 400 12px/1.4 var(--f-mono);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  h2 {
    margin: 6px 0 2px;
  }
  .job {
    border-bottom: 1px solid var(--mist-1);
    padding: 4px 0;
    font-size: 13px;
  }
  .job p,
  p.job {
    display: flex;
    justify-content: space-between;
    gap: 10px;
    align-items: baseline;
    min-height: 24px;
  }
  p.late > span:nth-child(2) {
    flex: 1;
  }
  .job:focus-visible {
    outline: 2px solid var(--ai);
  }
  .keys {
    padding-top: 8px;
  }
  .came {
    display: block;
  }
  .do {
    display: inline-flex;
    gap: 12px;
  }
  .line {
    display: block;
    height: 4px;
    background: linear-gradient(var(--ai) 0 0) 0 0 / calc(var(--done) * 100%) 100% no-repeat var(--mist-1);
  }
  .line.open {
    background: repeating-linear-gradient(90deg, var(--mist-3) 0 4px, var(--mist-1) 4px 8px);
  }
</style>
