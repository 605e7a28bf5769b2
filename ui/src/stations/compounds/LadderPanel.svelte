<script lang="ts">
  // The alkane ladder from which retention indices are had.
  import { createQuery } from "@tanstack/svelte-query";
  import { answer, api, Problem, type Method, type Peak } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";
  import { ask, queries } from "../../state/ask";
  import { notBelow0 } from "../../state/held";
  import { who } from "../../state/who.svelte";

  let {
    batch,
    method,
    peaks,
    save,
  }: { batch: string; method: Method; peaks: Peak[]; save: (ladder: Method["ladder"], why: string) => void } = $props();
  const kept = createQuery(() => ask.ladders(batch));
  let name = $state("");
  let says = $state("");
  async function act(what: () => Promise<unknown>) {
    says = "";
    try {
      await who.sure();
      await what();
      await queries.invalidateQueries({ queryKey: ["ladders"] });
      return true;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      says = error.message;
      return false;
    }
  }
  /** A table of carbons and times, pasted or from a file, becomes the ladder of the method. */
  const read = (text: string) =>
    act(async () => {
      const got = await answer(api.POST("/api/ladders/read", { body: { text } }));
      save(
        { ...got, scale: ladder?.scale ?? "linear", hold_up_min: ladder?.hold_up_min },
        `ladder of ${got.rungs.length} alkanes from a table`,
      );
    });
  const keep = (called: string, one: Method["ladder"] | null) =>
    act(() =>
      answer(api.POST("/api/batches/{batch}/ladders", { params: { path: { batch } }, body: { name: called, ladder: one ?? null } })),
    );
  async function bring(e: Event) {
    const input = e.currentTarget as HTMLInputElement;
    const file = input.files?.[0];
    input.value = "";
    if (file) await read(await file.text());
  }

  const ladder = $derived(method.ladder);
  const check = createQuery(() =>
    ask.ladderCheck(
      ladder,
      peaks.map((p) => p.apex_min),
    ),
  );
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
    {#if check.data?.says}<p class="note" class:att={check.data.odd.length > 0 || check.data.says.includes("take them anew")} role="status">
        {check.data.says}
      </p>{/if}
    <button class="lnk" onclick={() => save(undefined, "no ladder")}>Without a ladder</button>
  {/if}
  <p class="take">
    <textarea
      class="field paste"
      rows="1"
      placeholder="or paste carbons and times"
      aria-label="Carbons and times"
      title="A table from a spreadsheet: carbons and retention times in minutes"
      onpaste={(e) => {
        e.preventDefault();
        void read(e.clipboardData?.getData("text") ?? "");
      }}
      onchange={(e) => {
        void read(e.currentTarget.value);
        e.currentTarget.value = "";
      }}></textarea>
    <label class="lnk" title="The same table as a file"
      >file<input type="file" accept=".csv,.txt,.tsv" onchange={(e) => void bring(e)} /></label
    >
  </p>
  {#each kept.data ?? [] as k (k.name)}
    <p class="take">
      <button
        class="lnk"
        title="C{k.ladder.rungs[0]?.carbons} to C{k.ladder.rungs.at(-1)?.carbons}, kept by {k.saved_by}: takes it for this method"
        onclick={() => save(k.ladder, `ladder ${k.name}`)}>{k.name}</button
      >
      <button
        class="mut"
        title="Takes it off the study; methods keep theirs"
        aria-label="Take {k.name} away"
        onclick={() => void keep(k.name, null)}>×</button
      >
    </p>
  {/each}
  {#if ladder}<form
      class="take"
      onsubmit={(e) => {
        e.preventDefault();
        if (name.trim()) void keep(name.trim(), ladder).then((done) => done && (name = ""));
      }}
    >
      <input
        class="field paste"
        bind:value={name}
        maxlength="80"
        placeholder="keep this ladder as …"
        title="The study keeps it by name, for other methods too"
      />
      <button class="lnk" disabled={!name.trim()} title="Keeps it">keep</button>
    </form>{/if}
  {#if says}<p class="att" role="alert">{says}</p>{/if}
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
  .take .field.paste {
    flex: 1;
    width: auto;
    min-width: 0;
    text-align: left;
  }
  input[type="file"] {
    display: none;
  }
  .take .field {
    width: 44px;
    text-align: right;
  }
</style>
