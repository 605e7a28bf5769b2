<script lang="ts">
  // The alkane ladder from which retention indices are had.
  import type { Method, Peak } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";
  import { notBelow0 } from "../../state/held";

  let { method, peaks, save }: { method: Method; peaks: Peak[]; save: (ladder: Method["ladder"], why: string) => void } = $props();

  const ladder = $derived(method.ladder);
  let first = $state("8");
  /** Every peak of the shown injection is one carbon more than the one before. */
  function take() {
    const from = Math.max(1, Math.round(Number(first) || 0));
    const rungs = peaks.map((p, k) => ({ carbons: from + k, time_min: Number(p.apex_min.toFixed(4)) }));
    save(
      { scale: ladder?.scale ?? "linear", hold_up_min: ladder?.hold_up_min, rungs },
      `ladder from C${from} to C${from + rungs.length - 1}`,
    );
  }
  const number = (text: string) => Number(text.replace(",", "."));
</script>

<section aria-label="Retention index">
  <h2>Retention index <span class="r">{ladder ? `${ladder.rungs.length} alkanes` : "no ladder"}</span></h2>
  <p class="take">
    The {peaks.length} peaks shown are alkanes from C<input class="field" aria-label="Carbons of the first alkane" bind:value={first} />
    <button
      class="lnk"
      disabled={peaks.length < 2}
      title="Takes the peaks in sight as a ladder of alkanes, for retention indices"
      onclick={take}>take</button
    >
  </p>
  {#if ladder}
    <div class="take">
      <span>Scale</span><Choice
        label="Scale of the index"
        options={[
          ["linear", "linear"],
          ["logarithmic", "logarithmic"],
        ]}
        value={ladder.scale}
        choose={(scale) => save({ ...ladder, scale }, `index on the ${scale} scale`)}
      />
    </div>
    {#if ladder.scale === "logarithmic"}
      <label class="take"
        ><span>Hold-up time, min</span><input
          class="field"
          value={ladder.hold_up_min ?? 0}
          onchange={(e) =>
            notBelow0(e.currentTarget.value) && save({ ...ladder, hold_up_min: number(e.currentTarget.value) }, "hold-up time")}
        /></label
      >
    {/if}
    <p class="note">{ladder.rungs.map((r) => `C${r.carbons} ${r.time_min.toFixed(2)}`).join(" · ")}</p>
    <button class="lnk" onclick={() => save(undefined, "no ladder")}>Without a ladder</button>
  {/if}
</section>

<style>
  .take {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 4px;
    font-size: 12.5px;
    min-height: 26px;
  }
  .take .field {
    width: 44px;
    text-align: right;
  }
</style>
