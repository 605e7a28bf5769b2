<script lang="ts">
  // Which values a block shows, in their order: heads, widths and digits of each.
  import type { LayoutBlock, LayoutValue, Quantity } from "../../../api/client";
  import { draft } from "./draft.svelte";

  let { block, quantities, compounds }: { block: LayoutBlock; quantities: Quantity[]; compounds: string[] } = $props();
  const values = $derived(block.values ?? []);
  const table = $derived(block.kind !== "sample");
  const may = $derived(
    quantities.filter((q) =>
      block.kind === "peaks" ? ["peak", "compound"].includes(q.lives) : block.kind === "results" ? q.lives !== "batch" : true,
    ),
  );
  const own = ["study", "method", "analyst", "first_injection", "last_injection", "injection_count", "replicates"];
  const of = (id: string) => quantities.find((q) => q.id === id);
  const put = (list: LayoutValue[]) => draft.change({ values: list.length ? list : undefined });
  const change = (k: number, more: Partial<Record<keyof LayoutValue, unknown>>) =>
    put(
      values.map((v, n) =>
        n === k ? (Object.fromEntries(Object.entries({ ...v, ...more }).filter(([, w]) => w !== undefined)) as LayoutValue) : v,
      ),
    );
  const number = (e: Event) => {
    const text = (e.currentTarget as HTMLInputElement).value.trim();
    return text === "" || Number.isNaN(Number(text)) ? undefined : Number(text);
  };
  function shift(k: number, by: number) {
    const list = [...values];
    const to = k + by;
    if (to < 0 || to >= list.length) return;
    [list[k], list[to]] = [list[to]!, list[k]!];
    put(list);
  }
  /** "3 s" are three significant digits, "2" two decimals. */
  const digits = (v: LayoutValue) =>
    v.digits ? `${v.digits} s` : v.decimals !== undefined && v.decimals !== null ? String(v.decimals) : "";
  function read(k: number, text: string) {
    const significant = /^(\d+)\s*s$/.exec(text.trim());
    const decimals = /^\d$/.exec(text.trim());
    change(k, { digits: significant ? Number(significant[1]) : undefined, decimals: decimals ? Number(decimals[0]) : undefined });
  }
  /** The row that has the focus, whose unit is told beneath. */
  let focus = $state(0);
  const focused = $derived(values[focus]);
  const unit = $derived(focused ? (of(focused.quantity)?.unit ?? "") : "");
  const usual = ["mg/g", "µg/g", "g/kg", "% (m/m)", "µmol/g", "mg/L", "µg/mL", "µg/L", "mmol/L", "µmol/L"];
  const lives = (id: string) => ["compound", "peak", "sample"].includes(of(id)?.lives ?? "");
</script>

<section aria-label="Values">
  <h2>{table ? "Columns" : "Values"} <span class="r">{values.length ? "" : "its own; choose to change them"}</span></h2>
  {#if values.length}
    <table>
      <thead
        ><tr
          ><th></th><th>value</th><th>head</th>{#if table}<th class="n">mm</th>{/if}<th
            class="n"
            title="Decimals; 3 s are three significant digits">dec.</th
          ><th></th></tr
        ></thead
      >
      <tbody>
        {#each values as v, k (`${k} ${v.quantity}`)}
          <tr class:at={k === focus} onfocusin={() => (focus = k)}>
            <td class="moves"
              ><button title="Further up" aria-label="{of(v.quantity)?.words ?? v.quantity} further up" onclick={() => shift(k, -1)}
                >↑</button
              ><button title="Further down" aria-label="{of(v.quantity)?.words ?? v.quantity} further down" onclick={() => shift(k, 1)}
                >↓</button
              ></td
            >
            <td title={of(v.quantity)?.how}
              >{of(v.quantity)?.words ?? v.quantity.replaceAll("_", " ")}{#if lives(v.quantity) && block.kind === "sample"}
                <select
                  class="field"
                  aria-label="Compound"
                  title="Of which compound"
                  value={v.compound ?? ""}
                  onchange={(e) => change(k, { compound: e.currentTarget.value })}
                >
                  {#each compounds as c (c)}<option value={c}>{c}</option>{/each}
                </select>{/if}</td
            >
            <td
              ><input
                class="field"
                aria-label="Head"
                placeholder="its own"
                value={v.head ?? ""}
                onchange={(e) => change(k, { head: e.currentTarget.value || undefined })}
              /></td
            >
            {#if table}<td class="n"
                ><input
                  class="field num"
                  aria-label="Width, mm"
                  inputmode="decimal"
                  value={v.width_mm ?? ""}
                  onchange={(e) => change(k, { width_mm: number(e) })}
                /></td
              >{/if}
            <td class="n"
              ><input class="field num" aria-label="Digits" value={digits(v)} onchange={(e) => read(k, e.currentTarget.value)} /></td
            >
            <td
              ><button
                title="Takes it off"
                aria-label="Take {of(v.quantity)?.words ?? v.quantity} off"
                onclick={() => put(values.filter((_, n) => n !== k))}>×</button
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if focused && unit}<label class="unit"
        ><span>{of(focused.quantity)?.words}, in</span>
        {#if unit === "min"}<select
            class="field"
            title="The unit in which it stands"
            value={focused.unit ?? "min"}
            onchange={(e) => change(focus, { unit: e.currentTarget.value === "min" ? undefined : e.currentTarget.value })}
            ><option value="min">min</option><option value="s">s</option></select
          >{:else}<input
            class="field"
            list="units"
            title="Another unit of its kind; mass and amount of substance by the molar mass of the compound"
            placeholder={unit}
            value={focused.unit ?? ""}
            onchange={(e) => change(focus, { unit: e.currentTarget.value.trim() || undefined })}
          /><datalist id="units"
            >{#each usual as u (u)}<option value={u}></option>{/each}</datalist
          >{/if}</label
      >{/if}
  {/if}
  <select
    class="field"
    aria-label="Value to add"
    title="Adds a value at the end"
    onchange={(e) => {
      const id = e.currentTarget.value;
      if (id) put([...values, { quantity: id, ...(lives(id) && block.kind === "sample" ? { compound: compounds[0] ?? "" } : {}) }]);
      e.currentTarget.value = "";
    }}
  >
    <option value="">add …</option>
    {#if block.kind === "sample"}{#each own as id (id)}<option value={id}>{id.replaceAll("_", " ")}</option>{/each}{/if}
    {#each may as q (q.id)}<option value={q.id}>{q.unit ? `${q.words}, ${q.unit}` : q.words}</option>{/each}
  </select>
</section>

<style>
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12.5px;
    margin-bottom: 6px;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--ink-3);
    font-size: 12px;
  }
  td,
  th {
    text-align: left;
    padding: 1px 4px 1px 0;
    border-bottom: 1px solid var(--mist-1);
  }
  tr.at td {
    background: var(--row-kaki);
  }
  .unit {
    display: grid;
    grid-template-columns: 1fr 110px;
    gap: 8px;
    font-size: 12.5px;
    align-items: baseline;
    margin-bottom: 6px;
  }
  td.n,
  th.n {
    text-align: right;
    width: 34px;
  }
  .moves {
    width: 30px;
    white-space: nowrap;
    color: var(--ink-3);
  }
  .moves button {
    width: 13px;
  }
  input.field {
    width: 100%;
    min-width: 0;
  }
</style>
