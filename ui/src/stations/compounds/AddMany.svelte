<script lang="ts">
  // From a standard's peaks to a compound table in one go: choose the standard, filter its peaks, name them, say which is the internal
  // standard, and keep all as one version.
  import type { Batch, Compound, Method } from "../../api/client";
  import { count, fixed, significant } from "../../look/number";
  import type { Shown } from "../../plot/Chromatogram.svelte";
  import { replicate } from "../../state/desk.svelte";
  import { place } from "../../state/place.svelte";
  import { compoundAt } from "./table";

  let {
    batch,
    method,
    peaks,
    index,
    hover,
    keep,
    close,
  }: {
    batch: Batch;
    method: Method;
    peaks: Shown[];
    index: number;
    hover: (n: number | null) => void;
    keep: (list: Compound[]) => void;
    close: () => void;
  } = $props();

  const standards = $derived(
    batch.injections
      .map((i, k) => ({ i, k }))
      .filter(({ i }) => i.role === "standard")
      .sort((a, b) => (b.i.level ?? 0) - (a.i.level ?? 0)),
  );
  const levelled = $derived(standards.filter(({ i }) => i.level !== null).length);
  let least = $state(0.5); // of the area, in percent
  let rows = $state<Record<number, { take: boolean; name: string; role: Compound["role"] }>>({});
  const unnamed = $derived(peaks.filter((p) => !p.compound_id && p.area_percent >= least));
  // Another injection has other peaks.
  $effect(() => {
    void index;
    rows = {};
  });
  const row = (p: Shown) => rows[p.number] ?? { take: true, name: "", role: "target" as const };
  const nameOf = (p: Shown) => row(p).name.trim() || `RT ${p.apex_min.toFixed(2)}`;
  const taken = $derived(unnamed.filter((p) => row(p).take));
  const hasStandard = $derived(method.compounds.some((c) => c.role === "internal_standard"));
  const names = $derived(taken.map(nameOf));
  const twice = $derived(names.find((n, k) => names.indexOf(n) !== k || method.compounds.some((c) => c.name === n)));

  function set(p: Shown, change: Partial<{ take: boolean; name: string; role: Compound["role"] }>) {
    rows[p.number] = { ...row(p), ...change };
  }
  /** Names from a spreadsheet fill down from where they are pasted. */
  function paste(e: ClipboardEvent, from: number) {
    const lines = (e.clipboardData?.getData("text") ?? "").split(/\r?\n/).map((l) => l.split("\t")[0]!.trim());
    if (lines.filter(Boolean).length < 2) return;
    e.preventDefault();
    lines.filter(Boolean).forEach((name, k) => unnamed[from + k] && set(unnamed[from + k]!, { name }));
  }
  /** What every injection holds of the internal standard, in the unit of the levels. */
  let amount = $state(1);
  function all() {
    const list: Compound[] = [];
    for (const p of taken) {
      const c = compoundAt(
        p,
        nameOf(p),
        peaks,
        [...method.compounds, ...list].map((o) => o.id),
      );
      list.push(row(p).role === "internal_standard" ? { ...c, role: "internal_standard", amount } : c);
    }
    keep(list);
  }
</script>

<section class="many" aria-label="Add many">
  <ol>
    <li>
      <b>Choose a standard.</b>
      {#if standards.length === 0}No injection is a standard yet: set roles at Batch, or go on with this one.
      {:else}
        <select
          class="field"
          aria-label="Standard"
          value={batch.injections[index]?.id}
          onchange={(e) => place.go({ query: { i: e.currentTarget.value } }, false)}
        >
          {#if !standards.some(({ k }) => k === index)}<option value={batch.injections[index]?.id}>this injection</option>{/if}
          {#each standards as { i, k } (i.id)}<option value={i.id}>{i.name} {replicate(batch, k)}</option>{/each}
        </select>
        {levelled} of {count(standards.length, "standard")} have a level.
      {/if}
    </li>
    <li>
      <b>Filter.</b> Leave out peaks below
      <input
        class="field num"
        aria-label="Least share of the area, %"
        value={least}
        onchange={(e) => (least = Math.max(0, Number(e.currentTarget.value.replace(",", ".")) || 0))}
      />
      % of the area: {unnamed.length} unnamed peaks are left.
    </li>
    <li><b>Name them.</b> Type, or paste a column. What has no name is called by its retention time.</li>
  </ol>
  <div class="grid-wrap">
    <table>
      <thead
        ><tr><th class="l"></th><th>RT, min</th><th>Area %</th><th>S/N</th><th class="l">Name</th><th class="l">Internal standard</th></tr
        ></thead
      >
      <tbody>
        {#each unnamed as p, k (p.number)}
          <tr onpointerenter={() => hover(p.number)} onpointerleave={() => hover(null)}>
            <td class="l chk"
              ><input
                type="checkbox"
                aria-label="Take the peak at {p.apex_min.toFixed(2)} min"
                checked={row(p).take}
                onchange={(e) => set(p, { take: e.currentTarget.checked })}
              /></td
            >
            <td>{fixed(p.apex_min, 3)}</td>
            <td>{fixed(p.area_percent, 2)}</td>
            <td>{significant(p.signal_to_noise, 3)}</td>
            <td class="l"
              ><input
                class="field"
                aria-label="Name of the peak at {p.apex_min.toFixed(2)} min"
                value={row(p).name}
                placeholder={nameOf(p)}
                disabled={!row(p).take}
                onpaste={(e) => paste(e, k)}
                oninput={(e) => set(p, { name: e.currentTarget.value })}
              /></td
            >
            <td class="l chk"
              ><input
                type="radio"
                name="standard"
                aria-label="The peak at {p.apex_min.toFixed(2)} min is the internal standard"
                disabled={!row(p).take || hasStandard}
                checked={row(p).role === "internal_standard"}
                onchange={() => set(p, { role: "internal_standard" })}
              />{#if row(p).role === "internal_standard"}<label class="note"
                  >each injection holds <input
                    class="field num"
                    aria-label="Amount of internal standard, {method.curves.unit}"
                    value={amount}
                    onchange={(e) => {
                      const v = Number(e.currentTarget.value.replace(",", "."));
                      if (v > 0) amount = v;
                      e.currentTarget.value = String(amount);
                    }}
                  />
                  {method.curves.unit}</label
                >{/if}</td
            >
          </tr>
        {:else}
          <tr><td class="l mut" colspan="6">Every peak of this injection has a name, or is below the filter.</td></tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p class="acts">
    <button
      class="btn pri"
      disabled={taken.length === 0 || twice !== undefined}
      title="Adds them to the method, with a reason"
      onclick={all}>Add {taken.length} compound{taken.length === 1 ? "" : "s"}</button
    >
    <button class="btn" onclick={close} title="Adds none of them">Leave it</button>
    {#if twice}<span class="att" role="alert">“{twice}” is there twice.</span>{/if}
  </p>
</section>

<style>
  .many {
    flex: 0 1 auto;
    max-height: 56%;
    display: flex;
    flex-direction: column;
    min-height: 0;
    padding-bottom: 8px;
  }
  ol {
    padding: 4px 12px 4px 32px;
    list-style: decimal;
    font-size: 12.5px;
    line-height: 24px;
  }
  b {
    font-weight: 600;
  }
  .num {
    width: 44px;
  }
  td.chk {
    display: table-cell;
  }
  td.chk input[type="radio"] {
    border-radius: 50%;
  }
  td.chk input:disabled {
    opacity: 0.4;
  }
  td label .field.num {
    width: 44px;
  }
  td .field {
    width: 220px;
    height: 20px;
    line-height: 18px;
  }
  .acts {
    display: flex;
    gap: 10px;
    align-items: baseline;
    padding: 8px 16px 0;
  }
</style>
