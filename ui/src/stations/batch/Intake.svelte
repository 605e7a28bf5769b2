<script lang="ts">
  import type { Batch } from "../../api/client";
  import Mark from "../../parts/Mark.svelte";
  import { look } from "./look/look.svelte";
  import { intake, type Coming } from "./intake.svelte";

  let { batch, over }: { batch: Batch; over: boolean } = $props();
  let chooser = $state<HTMLInputElement>();
  const counts = $derived.by(() => {
    const n: Partial<Record<Coming["status"], number>> = {};
    for (const f of intake.files) n[f.status] = (n[f.status] ?? 0) + 1;
    return n;
  });
  const done = $derived(intake.files.length - (counts.waiting ?? 0) - (counts.sending ?? 0) - (counts.coming ?? 0));
  const outcome = $derived(
    [
      `${counts.added ?? 0} added`,
      counts.joined && `${counts.joined} joined to them`,
      counts.already && `${counts.already} in the batch before`,
      counts.refused && `${counts.refused} refused`,
      counts.stopped && `${counts.stopped} stopped`,
    ]
      .filter(Boolean)
      .join(", "),
  );
  const mb = (bytes: number) => (bytes < 100_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`);
</script>

<section aria-label="Intake">
  <h2>Intake <span class="r">ANDI, mzML, JCAMP-DX, text</span></h2>
  <button class="drop" class:over title="Chooses files for this batch" onclick={() => chooser?.click()}>
    {#if over}Let go to add to {batch.name}{:else}Drop files here, or <span class="lnk">choose them</span>{/if}
  </button>
  <input
    bind:this={chooser}
    type="file"
    multiple
    hidden
    aria-label="Files to import"
    onchange={(e) => {
      void look.add(batch.id, e.currentTarget.files ?? []);
      e.currentTarget.value = "";
    }}
  />
  {#if intake.files.length > 0}
    <div class="progress" role="progressbar" aria-valuemin="0" aria-valuemax={intake.files.length} aria-valuenow={done} aria-label="Import">
      {#each intake.files as f, i (i)}<i class={f.status} title="{f.name}, {mb(f.size)}: {f.status}"></i>{/each}
    </div>
    <p class="note sum">
      {done} of {intake.files.length} read: {outcome}
      {#if done === intake.files.length}<button class="lnk" onclick={() => intake.clear()}>close</button>{/if}
    </p>
    {#each intake.files as f, i (i)}
      {#if f.status === "refused" || f.status === "already" || (f.message && f.status === "added")}
        <p class="out" class:bad={f.status === "refused"}>
          <Mark name="look" />
          <span><b>{f.name}</b> {f.status === "refused" ? (f.unsupported ? "is not read. " : "cannot be read. ") : ""}{f.message}</span>
        </p>
      {/if}
    {/each}
  {/if}
</section>

<style>
  .drop {
    border: 1.5px dashed var(--mist-3);
    width: 100%;
    padding: 16px 12px;
    margin-top: 6px;
    color: var(--ink-2);
  }
  .drop.over {
    border-color: var(--ai);
    background: var(--row-ai);
    color: var(--ai);
    font-weight: 500;
  }
  .progress {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    margin-top: 10px;
  }
  .progress i {
    width: 2px;
    height: 12px;
    background: var(--mist-2);
    margin-right: 2px;
  }
  .progress .sending {
    background: var(--ink);
  }
  .progress .added,
  .progress .joined,
  .progress .already {
    background: var(--ai);
  }
  .progress .coming {
    background: var(--ink-3);
  }
  .progress .stopped {
    background: var(--mist-3);
  }
  .progress .refused {
    background: var(--kaki);
    width: 3px;
  }
  .sum {
    display: flex;
    justify-content: space-between;
    margin-top: 4px;
  }
  .out {
    display: grid;
    grid-template-columns: 16px 1fr;
    gap: 4px;
    font-size: 12.5px;
    line-height: 1.35;
    margin-top: 6px;
    color: var(--ink-2);
  }
  .out.bad :global(.mark) {
    color: var(--kaki);
  }
  .out b {
    font-weight: 500;
  }
</style>
