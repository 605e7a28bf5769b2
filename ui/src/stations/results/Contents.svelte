<script lang="ts">
  // What the standards hold, compound by level, as weighed; a block from a spreadsheet is pasted as a whole.
  import { answer, api, type Batch, type ContentTable, type Method, type Result } from "../../api/client";
  import { count, significant } from "../../look/number";
  import Glyph, { stairSteps } from "../../parts/Glyph.svelte";
  import { levelsOf } from "../../state/desk.svelte";
  import { draft } from "./draft.svelte";

  let { batch, method, result }: { batch: Batch; method: Method; result: Result } = $props();
  const levels = $derived(levelsOf(batch));
  const targets = $derived(method.compounds.filter((c) => c.role === "target").toSorted((a, b) => a.expected_min - b.expected_min));
  const table = $derived(method.curves.contents ?? undefined);
  let said = $state<string[]>([]);
  let trouble = $state("");
  let pasting = $state(false);

  type Row = ContentTable["compounds"][string];
  const rowOf = (id: string): Row => table?.compounds[id] ?? {};
  const amountOf = (id: string, level: number) => rowOf(id).levels?.find((l) => l.level === level)?.amount;
  const shown = (id: string, level: number) => {
    const v = amountOf(id, level);
    return v === undefined ? (tabled.has(level) ? "" : String(level)) : String(v);
  };
  /** Levels that any compound has a cell for; of the others the number in the run list says what they hold. */
  const tabled = $derived(new Set(Object.values(table?.compounds ?? {}).flatMap((r) => (r.levels ?? []).map((l) => l.level))));

  function save(next: ContentTable | undefined, what: string) {
    draft.change(batch, { curves: { ...method.curves, contents: next } }, `standards: ${what}`);
  }
  /** The table as it stands, with every cell written out, so that changing one of a level does not empty its others. */
  function whole(): ContentTable {
    const compounds: ContentTable["compounds"] = {};
    for (const c of targets) {
      const row = rowOf(c.id);
      const cells = levels.flatMap((level) => {
        const amount = amountOf(c.id, level) ?? (tabled.has(level) ? undefined : level);
        return amount === undefined ? [] : [{ level, amount }];
      });
      compounds[c.id] = { ...row, levels: cells };
    }
    return { unit: table?.unit ?? method.curves.unit, compounds };
  }
  function number(text: string): number | undefined | null {
    if (text.trim() === "" || text.trim() === "–") return undefined;
    const v = Number(text.trim().replace(",", "."));
    return Number.isFinite(v) && v >= 0 ? v : null;
  }
  function setCell(id: string, name: string, level: number, input: HTMLInputElement) {
    const v = number(input.value);
    if (v === null) {
      trouble = `“${input.value}” is no amount; leave the cell empty where a standard does not hold ${name}.`;
      input.value = shown(id, level);
      return;
    }
    trouble = "";
    const next = whole();
    const others = (next.compounds[id]!.levels ?? []).filter((l) => l.level !== level);
    next.compounds[id] = {
      ...next.compounds[id],
      levels: v === undefined ? others : [...others, { level, amount: v }].sort((a, b) => a.level - b.level),
    };
    save(next, `${name} at ${level}`);
  }
  function setPurity(id: string, name: string, key: "purity_percent" | "purity_se_percent", input: HTMLInputElement) {
    const v = number(input.value);
    if (v === null || (v ?? 0) > 100) {
      trouble = `“${input.value}” is no percentage.`;
      input.value = String(rowOf(id)[key] ?? "");
      return;
    }
    trouble = "";
    const base = table ?? { unit: method.curves.unit, compounds: {} };
    save({ ...base, compounds: { ...base.compounds, [id]: { ...rowOf(id), [key]: v } } }, `purity of ${name}`);
  }
  async function paste(text: string) {
    trouble = "";
    try {
      const read = await answer(api.POST("/api/batches/{batch}/contents/look", { params: { path: { batch: batch.id } }, body: { text } }));
      const next = whole();
      if (read.unit) next.unit = read.unit;
      for (const r of read.rows) {
        const id = targets.find((c) => c.name === r.compound)!.id;
        next.compounds[id] = {
          ...next.compounds[id],
          ...(r.purity_percent === null ? {} : { purity_percent: r.purity_percent }),
          ...(r.purity_se_percent === null ? {} : { purity_se_percent: r.purity_se_percent }),
          ...(r.amounts.length ? { levels: r.amounts.toSorted((a, b) => a.level - b.level) } : {}),
        };
      }
      said = read.read;
      pasting = false;
      save(next, `pasted, ${count(read.rows.length, "compound")}`);
    } catch (error) {
      trouble = (error as Error).message;
    }
  }
  function onpaste(e: ClipboardEvent) {
    const text = e.clipboardData?.getData("text") ?? "";
    if (!/[\t\n]/.test(text.trim())) return; // one cell
    e.preventDefault();
    void paste(text);
  }
  const holds = (id: string, level: number) => {
    const p = result.curves.find((c) => c.compound_id === id)?.points.find((q) => q.level === level);
    return p ? `now ${significant(p.content, 4)} ${method.curves.unit} on the curve` : "no point on the curve";
  };
</script>

<section aria-label="What the standards hold" {onpaste}>
  <div class="cap">
    <h2>What the standards hold</h2>
    <span class="note"
      >as weighed, <input
        class="field unit"
        aria-label="Unit of the table"
        value={table?.unit ?? method.curves.unit}
        onchange={(e) =>
          e.currentTarget.value.trim() && save({ ...whole(), unit: e.currentTarget.value.trim() }, `in ${e.currentTarget.value.trim()}`)}
      /> · times purity</span
    >
    <span class="r">
      <button class="lnk" onclick={() => (pasting = !pasting)} title="A block from a spreadsheet: compounds down, levels across"
        >Paste a table</button
      >
      {#if table}<button class="lnk" onclick={() => save(undefined, "as their levels say")} title="Each compound holds what its level says"
          >As the levels say</button
        >{/if}
    </span>
  </div>
  {#if pasting}
    <textarea
      class="field"
      rows="3"
      aria-label="Table from a spreadsheet"
      placeholder="Paste here: compounds down, levels across; a first line with purity, ± and the levels is understood"></textarea>
  {/if}
  {#if levels.length === 0}
    <p class="note">No standard has a level yet. Type levels into the run list at the Batch station.</p>
  {:else}
    <div class="wrap">
      <table>
        <thead
          ><tr
            ><th class="l">Compound</th><th>Purity, %</th><th>±</th>{#each levels as l (l)}<th
                ><span class="lv"><Glyph role="standard" steps={stairSteps(l, levels)} />{l}</span></th
              >{/each}</tr
          ></thead
        >
        <tbody>
          {#each targets as c (c.id)}
            <tr>
              <td class="l">{c.name}</td>
              <td
                ><input
                  class="field"
                  aria-label="Purity of {c.name}, %"
                  placeholder="100"
                  value={rowOf(c.id).purity_percent ?? ""}
                  onchange={(e) => setPurity(c.id, c.name, "purity_percent", e.currentTarget)}
                /></td
              >
              <td
                ><input
                  class="field"
                  aria-label="Uncertainty of the purity of {c.name}, %"
                  placeholder="–"
                  value={rowOf(c.id).purity_se_percent ?? ""}
                  onchange={(e) => setPurity(c.id, c.name, "purity_se_percent", e.currentTarget)}
                /></td
              >
              {#each levels as l (l)}
                <td class:own={amountOf(c.id, l) !== undefined}
                  ><input
                    class="field"
                    aria-label="{c.name} at level {l}"
                    placeholder="–"
                    title={holds(c.id, l)}
                    value={shown(c.id, l)}
                    onchange={(e) => setCell(c.id, c.name, l, e.currentTarget)}
                  /></td
                >
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  {#if trouble}<p class="att" role="alert">{trouble}</p>
  {:else if said.length}<p class="note">Pasted: {said.join(". ")}.</p>
  {:else}<p class="note">
      {table
        ? "An empty cell is not in that standard and makes no point; 0 is a blank level."
        : "Each compound holds what its level says. Type over a cell where it does not."}
    </p>{/if}
</section>

<style>
  .cap {
    display: flex;
    align-items: baseline;
    gap: 12px;
  }
  .cap .r {
    margin-left: auto;
    display: flex;
    gap: 12px;
    font-size: 12.5px;
  }
  section {
    min-width: 0;
  }
  .wrap {
    overflow-x: auto;
  }
  textarea {
    width: 100%;
    height: auto;
    border: 1px dashed var(--mist-3);
    margin: 4px 0;
  }
  .unit {
    width: 64px;
    height: 19px;
    font-size: 12px;
    text-align: center;
  }
  .lv {
    display: inline-flex;
    gap: 3px;
    align-items: baseline;
  }
  th {
    padding: 0 6px 3px;
  }
  td {
    padding: 0 2px;
  }
  td.l {
    padding-left: 0;
  }
  td .field {
    width: 47px;
    height: 20px;
    text-align: right;
    border-bottom-color: transparent;
    font-size: 12.5px;
  }
  td .field:hover,
  td .field:focus {
    border-bottom-color: var(--mist-3);
  }
  td:not(.own) .field {
    color: var(--ink-3);
  }
  .note {
    margin-top: 4px;
  }
</style>
