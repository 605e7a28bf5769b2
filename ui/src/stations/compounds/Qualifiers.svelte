<script lang="ts">
  // In which channel a compound is looked for, and the peaks of other channels that must bear it out.
  import type { Batch, Compound, Injected } from "../../api/client";
  import { fixed } from "../../look/number";
  import { channelOfCompound, channelTitle } from "../../state/channel";
  import { above0 } from "../../state/held";

  let {
    batch,
    compound,
    injected,
    set,
  }: {
    batch: Batch;
    compound: Compound;
    /** What was found in the shown injection. */
    injected: Injected | undefined;
    set: (change: Partial<Compound>, what: string) => void;
  } = $props();

  const method = $derived(batch.version.method);
  const own = $derived(channelOfCompound(method, compound.id)?.id);
  const list = $derived(compound.qualifiers ?? []);
  const others = $derived(method.channels.filter((c) => c.id !== own));
  const free = $derived(others.filter((c) => !list.some((q) => q.channel === c.id)));
  const titleOf = (id: string) => {
    const c = method.channels.find((c) => c.id === id);
    return c ? channelTitle(batch, c) : id;
  };
  function change(k: number, to: Partial<(typeof list)[number]>, what: string) {
    set({ qualifiers: list.map((q, i) => (i === k ? { ...q, ...to } : q)) }, what);
  }
  const number = (text: string) => Number(text.replace(",", "."));
</script>

{#if method.channels.length > 1}
  <section aria-label="Channel and qualifiers">
    <div class="set">
      <label for="looked">Looked for in</label>
      <select
        id="looked"
        class="field"
        title="The channel in which its peak is looked for"
        value={own}
        onchange={(e) =>
          set(
            { channel: e.currentTarget.value === method.channels[0]!.id ? undefined : e.currentTarget.value, qualifiers: undefined },
            `looked for in ${titleOf(e.currentTarget.value)}`,
          )}
      >
        {#each method.channels as c (c.id)}<option value={c.id}>{channelTitle(batch, c)}</option>{/each}
      </select>
    </div>
    {#each list as q, k (q.channel)}
      {@const got = injected?.qualifiers?.[compound.id]?.[k]}
      <h3>
        {titleOf(q.channel)}
        <button class="lnk" onclick={() => set({ qualifiers: list.filter((_, i) => i !== k) }, `${titleOf(q.channel)} no longer qualifies`)}
          >take off</button
        >
      </h3>
      <div class="set">
        <label for="ratio{k}">Ratio to its own peak</label><input
          id="ratio{k}"
          class="field num"
          title="Its response over the compound's own; without a number it is the mean of the standards"
          placeholder={got?.expected ? `${fixed(got.expected, 3)}, standards` : "from standards"}
          value={q.ratio ?? ""}
          onchange={(e) =>
            change(
              k,
              { ratio: number(e.currentTarget.value) || undefined },
              `ratio of ${titleOf(q.channel)} ${e.currentTarget.value || "from the standards"}`,
            )}
        />
      </div>
      <div class="set">
        <label for="kind{k}">Tolerance</label>
        <select
          id="kind{k}"
          class="field"
          title="What the ratio may differ by: the rules of the trade, or your own"
          value={q.tolerance === "steps"
            ? "steps"
            : q.tolerance === "absolute"
              ? "absolute"
              : q.tolerance_percent === 30 || q.tolerance_percent === 40
                ? String(q.tolerance_percent)
                : "own"}
          onchange={(e) => {
            const to = e.currentTarget.value;
            change(
              k,
              to === "steps"
                ? { tolerance: "steps" }
                : to === "absolute"
                  ? { tolerance: "absolute", tolerance_percent: 10 }
                  : { tolerance: undefined, tolerance_percent: to === "own" ? 20 : Number(to) },
              `tolerance of ${titleOf(q.channel)}: ${e.currentTarget.selectedOptions[0]!.text}`,
            );
          }}
          ><option value="30">± 30 % (SANTE/11312)</option><option value="40">± 40 % (EU 2021/808)</option><option value="steps"
            >in steps (2002/657/EC)</option
          ><option value="absolute">percentage points</option><option value="own">own</option></select
        >
      </div>
      <div class="set" hidden={q.tolerance === "steps"}>
        <label for="tolerance{k}">{q.tolerance === "absolute" ? "± points" : "± %"}</label><input
          id="tolerance{k}"
          class="field num"
          title="How far the ratio may stand from that"
          value={q.tolerance_percent}
          onchange={(e) =>
            above0(e.currentTarget.value) &&
            change(k, { tolerance_percent: number(e.currentTarget.value) }, `ratio of ${titleOf(q.channel)} ± ${e.currentTarget.value} %`)}
        />
      </div>
      <p class="note" class:att={got && !got.within && got.expected !== null}>
        {#if !got}Not found here.{:else if got.ratio === null}No peak at its time here.{:else}Here {fixed(got.ratio, 3)}{got.expected ===
          null
            ? ", nothing to hold it against."
            : got.within
              ? ", inside."
              : `, outside what is permitted around ${fixed(got.expected, 3)}.`}{/if}
      </p>
    {:else}
      <p class="note">No other channel has to bear it out.</p>
    {/each}
    {#if free.length > 0}
      <button
        class="lnk"
        title="A peak at the same time in another channel must stand in a given ratio"
        onclick={() =>
          set({ qualifiers: [...list, { channel: free[0]!.id, tolerance_percent: 30 }] }, `${titleOf(free[0]!.id)} bears it out, ± 30 %`)}
        >Ask for a peak in {titleOf(free[0]!.id)}</button
      >
    {/if}
  </section>
{/if}

<style>
  .set {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 8px;
    font-size: 12.5px;
    min-height: 26px;
  }
  .set .num {
    width: 110px;
    text-align: right;
  }
  h3 {
    display: flex;
    justify-content: space-between;
    font-size: 12.5px;
    font-weight: 500;
    padding-top: 6px;
  }
</style>
