<script lang="ts">
  // The run list as a grid: arrows move, typing edits, columns are pasted, filled down and continued.
  import type { Batch, EntryChange, Notice, Result } from "../../api/client";
  import Columns from "../../parts/Columns.svelte";
  import Glyph, { stairSteps } from "../../parts/Glyph.svelte";
  import { desk, replicate, levelsOf } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { columns, continueSeries, shownText } from "./columns";

  let {
    batch,
    result,
    index,
    all,
  }: { batch: Batch; result: Result | undefined; index: number; /** Show seldom used columns too. */ all: boolean } = $props();

  const cols = $derived(columns(batch, all));
  // The name keeps its room; where all columns do not fit beside it, the grid rolls.
  const least = $derived(cols.reduce((sum, c) => sum + (c.width === "auto" ? 190 : parseInt(c.width)), 34 + 150));
  const rows = $derived(batch.injections);
  const levels = $derived(levelsOf(batch));
  let col = $state(0);
  let anchor = $state<number | null>(null); // the other end of a selected stretch of rows
  let editing = $state<string | null>(null);
  let grid = $state<HTMLElement>();
  const low = $derived(anchor === null ? index : Math.min(anchor, index));
  const high = $derived(anchor === null ? index : Math.max(anchor, index));

  const held = $derived.by(() => {
    const m = new Map<string, Notice>();
    for (const n of result?.notices ?? [])
      if (n.weight === "decide" && n.injection_id && !batch.settled.includes(n.key) && !m.has(n.injection_id)) m.set(n.injection_id, n);
    return m;
  });
  const stepOf: Record<string, number> = { batch: 0, peaks: 1, compounds: 2, curves: 3, results: 4 };

  const cell = (r: number, c: number) => ({ r, c });
  function go(r: number, c: number, extend = false) {
    const to = Math.max(0, Math.min(rows.length - 1, r));
    anchor = extend ? (anchor ?? index) : null;
    col = Math.max(0, Math.min(cols.length - 1, c));
    place.go({ query: { i: rows[to]!.id } }, false);
    grid?.querySelector(`[data-row="${to}"]`)?.scrollIntoView({ block: "nearest" });
  }
  const change = (r: number, c: number, value: string): EntryChange => ({
    injection_id: rows[r]!.id,
    field: cols[c]!.field,
    value,
  });

  const roles = ["", "blank", "standard", "check", "sample", "suitability"];
  let typing = $state(false); // a role is typed as a word rather than chosen from the list
  let picked = false; // an option of the list was chosen with the pointer, which ends editing

  function begin(text?: string) {
    if (rows.length === 0) return;
    const now = cols[col]!.text(rows[index]!);
    picked = false;
    typing = text !== undefined;
    editing = text ?? now;
  }
  async function commit(down: number) {
    if (editing === null) return;
    const value = editing;
    const at = cell(index, col);
    editing = null;
    grid?.focus();
    if (value.trim() !== cols[at.c]!.text(rows[at.r]!)) {
      if (!(await desk.setEntries([change(at.r, at.c, value)]))) return;
    }
    if (down) go(at.r + down, at.c);
  }

  function fillDown() {
    const from = low === high ? low - 1 : low;
    if (from < 0) return;
    const value = cols[col]!.text(rows[from]!);
    const changes: EntryChange[] = [];
    for (let r = from + 1; r <= high; r++) changes.push(change(r, col, value));
    if (changes.length) desk.setEntries(changes);
  }
  function fillSeries() {
    if (low === high) return;
    const given: string[] = [];
    for (let r = low; r <= high; r++) {
      const t = cols[col]!.text(rows[r]!);
      if (!t || given.length === 2) break;
      given.push(t);
    }
    // Two unlike values begin a series; two like ones are one value to count up from.
    if (given.length === 2 && (given[0] === given[1] || high - low === 1)) given.pop();
    if (given.length === 0) return;
    const more = continueSeries(given, high - low + 1 - given.length);
    desk.setEntries(more.map((v, k) => change(low + given.length + k, col, v)));
  }
  /** Which column each heading of a table is, -1 for one that is none; nothing where the first line holds no headings. */
  function headings(cells: string[]): number[] | null {
    const words = cols.map((c) => [c.head.toLowerCase(), c.head.toLowerCase().split(",")[0]!, c.field]);
    const found = cells.map((t) => words.findIndex((w) => w.includes(t.trim().toLowerCase())));
    return found.filter((k) => k >= 0).length * 2 > cells.length ? found : null;
  }
  function pasted(text: string) {
    const lines = text
      .replace(/\r/g, "")
      .replace(/\n+$/, "")
      .split("\n")
      .map((l) => l.split("\t"));
    const headed = headings(lines[0]!);
    const body = headed ? lines.slice(1) : lines;
    const columns = headed ?? lines[0]!.map((_, dc) => col + dc);
    const wide = Math.max(...body.map((l) => l.length));
    if (low + body.length > rows.length) {
      desk.trouble = `The table has ${body.length} rows, the run list has ${rows.length - low} from here on. Nothing was pasted: select the row where it begins, or bring in the other files first.`;
      return;
    }
    if (!headed && col + wide > cols.length) {
      desk.trouble = `The table has ${wide} columns, the run list has ${cols.length - col} from here on. Nothing was pasted: select the column where it begins, or show all columns.`;
      return;
    }
    const changes = body.flatMap((line, dr) =>
      line.flatMap((value, dc) => (columns[dc] === undefined || columns[dc] < 0 ? [] : [change(low + dr, columns[dc], value)])),
    );
    if (changes.length) desk.setEntries(changes);
  }

  function key(e: KeyboardEvent) {
    if (editing !== null) {
      if (e.key === "Enter") commit(1);
      else if (e.key === "Tab") {
        const step = e.shiftKey ? -1 : 1;
        commit(0).then(() => go(index, col + step));
      } else if (e.key === "Escape") {
        editing = null;
        grid?.focus();
      } else return;
      e.preventDefault();
      e.stopPropagation();
      return;
    }
    const moves: Record<string, [number, number]> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      PageUp: [-15, 0],
      PageDown: [15, 0],
    };
    const move = moves[e.key];
    if (e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown"))
      desk.move(rows[index]!.id, Math.max(1, Math.min(rows.length, index + 1 + (e.key === "ArrowUp" ? -1 : 1))));
    else if (move && !e.ctrlKey && !e.metaKey && !e.altKey) go(index + move[0], col + move[1], e.shiftKey);
    else if (e.key === "Home") go(0, col, e.shiftKey);
    else if (e.key === "End") go(rows.length - 1, col, e.shiftKey);
    else if (e.key === "Enter" || e.key === "F2") begin();
    else if (e.key === "Delete" || e.key === "Backspace") {
      const changes: EntryChange[] = [];
      for (let r = low; r <= high; r++) changes.push(change(r, col, ""));
      desk.setEntries(changes);
    } else if (e.key.length === 1 && !e.ctrlKey && !e.metaKey && !e.altKey) begin(e.key);
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
  $effect(() => keys({ "alt+f": fillDown, "alt+s": fillSeries }));
  export { fillDown, fillSeries };

  /** The key that begins to type over a cell stands in the field already; where it is given to the field once more, that is too much. */
  const sameKey = 60; // ms
  function focusField(node: HTMLInputElement | HTMLSelectElement) {
    node.focus();
    if (typing && node instanceof HTMLInputElement) {
      const first = node.value;
      const again = (e: InputEvent) => e.data === first && e.preventDefault();
      node.addEventListener("beforeinput", again, { once: true });
      setTimeout(() => node.removeEventListener("beforeinput", again), sameKey);
    }
    if (node instanceof HTMLInputElement) node.setSelectionRange(node.value.length, node.value.length);
  }
</script>

<Columns stay={2} at={col + 1} class="runs">
  <table
    style="min-width:{least}px;max-width:{least + 330}px"
    bind:this={grid}
    tabindex="0"
    role="grid"
    aria-activedescendant={index >= 0 ? `cell-${index}-${col}` : undefined}
    aria-label="Run list"
    aria-rowcount={rows.length}
    data-own-keys
    onkeydown={key}
    onpaste={(e) => {
      if (editing === null) {
        e.preventDefault();
        pasted(e.clipboardData?.getData("text/plain") ?? "");
      }
    }}
    oncopy={(e) => {
      if (editing !== null) return;
      e.preventDefault();
      e.clipboardData?.setData(
        "text/plain",
        rows
          .slice(low, high + 1)
          .map((r) => cols[col]!.text(r))
          .join("\n"),
      );
    }}
  >
    <thead>
      <tr>
        <th class="l" style="width:34px">#</th>
        {#each cols as c (c.field)}<th class:l={!c.number} style="width:{c.width}">{c.head}</th>{/each}
        <th class="l" style="width:172px" title="read · peaks · names · curves · checks">State</th>
      </tr>
    </thead>
    <tbody>
      {#each rows as r, n (r.id)}
        {@const notice = held.get(r.id)}
        <tr aria-rowindex={n + 1} class:sel={n >= low && n <= high} data-row={n} aria-selected={n === index}>
          <td class="l mut">{n + 1}</td>
          {#each cols as c, k (c.field)}
            <td
              class:l={!c.number}
              class:sec={c.field === "role"}
              class:at={n === index && k === col}
              class:part={n >= low && n <= high && k === col}
              id="cell-{n}-{k}"
              role="gridcell"
              aria-selected={n === index && k === col}
              onpointerdown={(e) => {
                if (n === index && k === col && editing !== null) return;
                if (editing !== null) commit(0);
                go(n, k, e.shiftKey);
              }}
              ondblclick={() => begin()}
            >
              {#if n === index && k === col && editing !== null}
                {#if c.field === "role" && !typing}
                  <select
                    class="edit"
                    bind:value={editing}
                    use:focusField
                    onpointerdown={() => (picked = true)}
                    onchange={() => picked && commit(0)}
                    onblur={() => commit(0)}
                    aria-label="Role"
                  >
                    {#each roles as role (role)}<option value={role}>{role || "none"}</option>{/each}
                  </select>
                {:else}
                  <input
                    class="edit"
                    class:num={c.number}
                    bind:value={editing}
                    use:focusField
                    onblur={() => commit(0)}
                    aria-label={c.head}
                  />
                {/if}
              {:else if c.field === "name"}
                <span class="gl"><Glyph role={r.role} steps={stairSteps(r.level, levels)} /></span>{r.name}
                <span class="mut">{replicate(batch, n)}</span>
              {:else}
                {@const text = shownText(c, r)}
                <span class:mut={text === "–"}>{text}</span>
              {/if}
            </td>
          {/each}
          <td role="gridcell" class="l">
            <span class="lad" class:q={result && !notice}>
              {#each [0, 1, 2, 3, 4] as s (s)}<i class:d={result} class:h={notice && stepOf[notice.station] === s}></i>{/each}
            </span>
            {#if !result}<span class="mut">waiting</span>
            {:else if notice}<span class="att">{notice.kind === "no_sample_amount" ? "no amount" : "look here"}</span>
            {:else}<span class="mut">done</span>{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</Columns>

<style>
  :global(.runs) {
    flex: 1;
  }
  table {
    outline-offset: -2px;
    table-layout: fixed;
  }
  td {
    overflow: hidden;
    text-overflow: ellipsis;
    position: relative;
    user-select: none;
  }
  .gl {
    margin-right: 7px;
  }
  td.part {
    background: var(--row-ai);
  }
  td.at {
    box-shadow: inset 0 0 0 1.5px var(--ai);
  }
  .edit {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    background: var(--sheet);
    color: #1b1e25;
    padding: 0 7px;
    border: 0;
    outline: 2px solid var(--ai);
    outline-offset: -2px;
    font-size: 12.5px;
  }
  .lad {
    display: inline-flex;
    gap: 3px;
    vertical-align: 1px;
    margin-right: 8px;
  }
  .lad i {
    width: 9px;
    height: 4px;
    background: var(--mist-1);
  }
  .lad i.d {
    background: var(--ai);
  }
  .lad i.h {
    background: var(--kaki);
  }
  .lad.q {
    vertical-align: 3px;
  }
  .lad.q i {
    height: 2px;
    background: var(--mist-2);
  }
</style>
