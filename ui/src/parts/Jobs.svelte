<script lang="ts">
  // What is worked on and what was: a panel from the top bar. Work goes on whether it is open or not.
  import { Popover, Portal } from "@skeletonlabs/skeleton-svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { count } from "../look/number";
  import { ask } from "../state/ask";
  import { place } from "../state/place.svelte";
  import { about, left, underway } from "../state/underway.svelte";
  import { jobsPanel } from "./jobs.svelte";

  const query = createQuery(() => ({ ...ask.jobs(), enabled: jobsPanel.open, refetchInterval: jobsPanel.open ? 800 : false }));
  const all = $derived(query.data ?? []);
  const now = $derived(all.filter((j) => j.state === "running"));
  const waiting = $derived(all.filter((j) => j.state === "waiting"));
  const lately = $derived(all.filter((j) => j.state !== "running" && j.state !== "waiting"));
  const outcome: Record<string, string> = { done: "done", stopped: "stopped; nothing was written", failed: "failed; nothing was written" };
  const clock = (t: string) => new Date(t).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  const lines = $derived(["yugen jobs", "GET /api/jobs", ...now.slice(0, 1).map((j) => `POST /api/jobs/${j.id}/stop`)]);
  let copied = $state("");
</script>

{#if underway.live.length > 0 || jobsPanel.open}
  <Popover open={jobsPanel.open} onOpenChange={(d) => (jobsPanel.open = d.open)} positioning={{ placement: "bottom-end" }}>
    <Popover.Trigger class="jobs-word" title="What is worked on, and what was lately"
      >{underway.live.length > 0 ? count(underway.live.length, "job") : "Jobs"}</Popover.Trigger
    >
    <Portal>
      <Popover.Positioner>
        <Popover.Content class="jobs-panel" aria-label="Jobs">
          <div class="work">
            <h2>Now</h2>
            {#each now as j (j.id)}
              <div class="job">
                <p><b>{about(j)}</b><span class="mut">{left(j)}</span></p>
                <span class="line" style:--done={j.total ? j.done / j.total : 0} class:open={!j.total}></span>
                <p>
                  <span class="note">{j.total ? `${j.done} of ${j.total}` : "reckoning"}, for {j.who}</span>
                  <button class="lnk" title="What is there stays as it is" onclick={() => underway.stop(j)}>Cancel</button>
                </p>
              </div>
            {:else}<p class="note">{query.isPending ? "Asking …" : "Nothing is being worked on."}</p>{/each}
            {#if waiting.length > 0}<h2>Waits</h2>
              {#each waiting as j (j.id)}<p class="job">
                  <span>{about(j)}</span><span class="note">until another of its kind has ended</span>
                  <button class="lnk" title="It is not begun" onclick={() => underway.stop(j)}>Cancel</button>
                </p>{/each}{/if}
            <h2>Lately</h2>
            {#each lately.slice(0, 8) as j (j.id)}<p class="job late">
                <span class="mut">{clock(j.since)}</span>
                <span
                  >{about(j)}<span class="note">
                    {j.state === "failed" ? (j.message ?? outcome["failed"]) : outcome[j.state]}{j.total
                      ? `, ${j.done} of ${j.total}`
                      : ""}</span
                  ></span
                >
                {#if j.batch_id && j.state === "done"}<button
                    class="lnk"
                    title="Opens the batch"
                    onclick={() => {
                      jobsPanel.open = false;
                      place.go({ batch: j.batch_id!, station: j.kind === "results" ? "results" : "batch", query: {} });
                    }}>Open</button
                  >{/if}
              </p>{:else}<p class="note">Nothing since the start.</p>{/each}
          </div>
          <div class="script">
            <h2>The same from a script</h2>
            {#each lines as line (line)}<p>
                <code>{line}</code>
                <button
                  class="lnk"
                  title="Copies this line"
                  onclick={() => void navigator.clipboard?.writeText(line).then(() => (copied = line))}
                  >{copied === line ? "copied" : "copy"}</button
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
    overflow-wrap: anywhere;
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
  .line {
    display: block;
    height: 4px;
    background: linear-gradient(var(--ai) 0 0) 0 0 / calc(var(--done) * 100%) 100% no-repeat var(--mist-1);
  }
  .line.open {
    background: repeating-linear-gradient(90deg, var(--mist-3) 0 4px, var(--mist-1) 4px 8px);
  }
</style>
