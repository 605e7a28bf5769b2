// A layout while it is worked on: what is kept, what was changed since, and which block is chosen. Every step can be taken back.
import { answer, api, Problem, type KeptLayout, type Layout, type LayoutBlock } from "../../../api/client";
import { queries } from "../../../state/ask";
import { who } from "../../../state/who.svelte";
import { begun, kinds } from "./blocks";

export type Place = { row: number; column: number };
/** Where something is put: between two rows, or beside a block of one. */
export type Gap = { row: number; beside?: number };

const twelve = 12;
const perRow = 3;
const least = 2;

class LayoutDraft {
  kept = $state.raw<KeptLayout>();
  layout = $state.raw<Layout>();
  selected = $state("");
  trouble = $state("");
  busy = $state(false);
  private past = $state.raw<Layout[]>([]);
  private future = $state.raw<Layout[]>([]);
  private batch = "";
  /** A block that comes from another station and is put on the page as soon as it is open. */
  private coming: Omit<LayoutBlock, "id"> | undefined;

  get changes(): number {
    return this.past.length;
  }
  get dirty(): boolean {
    return !!this.layout && !!this.kept && JSON.stringify(this.layout) !== JSON.stringify(this.kept.layout);
  }
  get canRedo(): boolean {
    return this.future.length > 0;
  }
  get block(): LayoutBlock | undefined {
    return this.layout?.rows.flat().find((b) => b.id === this.selected);
  }

  /** Opens a layout; one with changes that are not kept stays open until they are kept or discarded. */
  open(batch: string, kept: KeptLayout) {
    this.batch = batch;
    this.kept = kept;
    this.layout = kept.layout;
    this.past = [];
    this.future = [];
    this.selected = "";
    this.trouble = "";
  }

  /** A newer version than the one that is open, or another batch. */
  follow(batch: string, kept: KeptLayout) {
    if (this.batch !== batch || this.kept?.id !== kept.id || (!this.dirty && this.kept.version !== kept.version)) this.open(batch, kept);
    const block = this.coming;
    this.coming = undefined;
    if (block && this.layout) this.insert(block, { row: this.beforeSigning() });
  }

  /** Brings a block from another station to the page that is opened next. */
  bring(block: Omit<LayoutBlock, "id">) {
    this.coming = block;
  }

  /** The row of the signatures, over which what is added by itself stands; without them the end. */
  private beforeSigning(): number {
    const rows = this.layout?.rows ?? [];
    const k = rows.findIndex((r) => r.some((b) => b.kind === "signatures" || b.kind === "foot"));
    return k < 0 ? rows.length : k;
  }

  private set(next: Layout) {
    if (!this.layout || JSON.stringify(next) === JSON.stringify(this.layout)) return;
    this.past = [...this.past, this.layout];
    this.future = [];
    this.layout = next;
  }

  undo(): boolean {
    const before = this.past.at(-1);
    if (!before || !this.layout) return false;
    this.future = [this.layout, ...this.future];
    this.past = this.past.slice(0, -1);
    this.layout = before;
    return true;
  }
  redo(): boolean {
    const [next, ...rest] = this.future;
    if (!next || !this.layout) return false;
    this.past = [...this.past, this.layout];
    this.future = rest;
    this.layout = next;
    return true;
  }
  discard() {
    if (this.kept) this.open(this.batch, this.kept);
  }

  /** Changes what the page itself says: name, paper, margins. */
  page(change: Partial<Layout>) {
    if (this.layout) this.set({ ...this.layout, ...change });
  }

  /** Changes the chosen block; undefined takes an option away. */
  change(change: Partial<Record<keyof LayoutBlock, unknown>>, id = this.selected) {
    if (!this.layout) return;
    this.set({
      ...this.layout,
      rows: this.layout.rows.map((row) =>
        row.map((b) =>
          b.id === id ? (Object.fromEntries(Object.entries({ ...b, ...change }).filter(([, v]) => v !== undefined)) as LayoutBlock) : b,
        ),
      ),
    });
  }

  where(id: string): Place | undefined {
    for (const [row, blocks] of (this.layout?.rows ?? []).entries()) {
      const column = blocks.findIndex((b) => b.id === id);
      if (column >= 0) return { row, column };
    }
    return undefined;
  }

  private freshId(): string {
    const ids = new Set(this.layout?.rows.flat().map((b) => b.id));
    for (let n = 1; ; n++) if (!ids.has(`b${n}`)) return `b${n}`;
  }

  /** Whether a block of a kind may stand at a gap. */
  fits(kind: string, gap: Gap, id = ""): boolean {
    if (gap.beside === undefined) return true;
    const row = this.layout?.rows[gap.row]?.filter((b) => b.id !== id);
    return !!row && row.length < perRow && !kinds[kind]?.alone && !row.some((b) => kinds[b.kind]?.alone);
  }

  private put(rows: LayoutBlock[][], block: LayoutBlock, gap: Gap): LayoutBlock[][] {
    const out = rows.map((r) => [...r]);
    if (gap.beside === undefined) out.splice(gap.row, 0, [{ ...block, columns: undefined } as unknown as LayoutBlock]);
    else out[gap.row]!.splice(gap.beside, 0, block);
    // Those that share a row share its columns anew.
    return out.map((r, k) =>
      gap.beside !== undefined && k === gap.row ? r.map((b) => ({ ...b, columns: undefined }) as unknown as LayoutBlock) : r,
    );
  }

  private clean(rows: LayoutBlock[][]): LayoutBlock[][] {
    return rows
      .filter((r) => r.length > 0)
      .map((r) => r.map((b) => Object.fromEntries(Object.entries(b).filter(([, v]) => v !== undefined)) as LayoutBlock));
  }

  add(kind: string, gap?: Gap) {
    if (!this.layout) return;
    const at = this.where(this.selected);
    const to = gap ?? { row: at ? at.row + 1 : this.layout.rows.length };
    if (!this.fits(kind, to)) return;
    this.insert(begun(kind), to);
  }

  private insert(what: Omit<LayoutBlock, "id">, gap: Gap) {
    if (!this.layout) return;
    const block = { id: this.freshId(), ...what } as LayoutBlock;
    this.set({ ...this.layout, rows: this.clean(this.put(this.layout.rows, block, gap)) });
    this.selected = block.id;
  }

  move(id: string, gap: Gap) {
    const at = this.where(id);
    if (!this.layout || !at) return;
    const block = this.layout.rows[at.row]![at.column]!;
    if (!this.fits(block.kind, gap, id)) return;
    const to = { ...gap };
    if (to.beside !== undefined && to.row === at.row && to.beside > at.column) to.beside--;
    const without = this.layout.rows.map((r) => r.filter((b) => b.id !== id));
    // The row that it leaves stays until it is put, so that places do not shift meanwhile.
    this.set({ ...this.layout, rows: this.clean(this.put(without, block, to)) });
  }

  /** Moves the chosen block by the keyboard: between rows, or beside. */
  step(way: "up" | "down" | "left" | "right") {
    const at = this.where(this.selected);
    if (!this.layout || !at) return;
    const row = this.layout.rows[at.row]!;
    if (way === "up") this.move(this.selected, { row: row.length > 1 ? at.row : Math.max(0, at.row - 1) });
    else if (way === "down") this.move(this.selected, { row: row.length > 1 ? at.row + 1 : Math.min(this.layout.rows.length, at.row + 2) });
    else if (row.length > 1) {
      const beside = way === "left" ? at.column - 1 : at.column + 2;
      if (beside >= 0 && beside <= row.length) this.move(this.selected, { row: at.row, beside });
    } else if (at.row > 0) {
      const above = this.layout.rows[at.row - 1]!;
      this.move(this.selected, { row: at.row - 1, beside: way === "left" ? 0 : above.length });
    }
  }

  /** How many of the twelve columns each block of a row takes. */
  widths(row: LayoutBlock[]): number[] {
    let left = twelve - row.reduce((n, b) => n + (b.columns ?? 0), 0);
    let open = row.filter((b) => !b.columns).length;
    return row.map((b) => {
      if (b.columns) return b.columns;
      const own = Math.max(1, Math.floor(left / open));
      left -= own;
      open--;
      return own;
    });
  }

  /** Makes a block wider or narrower; its neighbour gives way, down to its least width. */
  widen(id: string, to: number) {
    const at = this.where(id);
    if (!this.layout || !at) return;
    const row = this.layout.rows[at.row]!;
    if (row.length === 1) {
      this.change({ columns: to >= twelve ? undefined : Math.max(least, to) }, id);
      return;
    }
    const widths = this.widths(row);
    const other = at.column < row.length - 1 ? at.column + 1 : at.column - 1;
    const both = widths[at.column]! + widths[other]!;
    const own = Math.max(least, Math.min(both - least, to));
    widths[at.column] = own;
    widths[other] = both - own;
    this.set({
      ...this.layout,
      rows: this.layout.rows.map((r, k) => (k === at.row ? r.map((b, n) => ({ ...b, columns: widths[n]! })) : r)),
    });
  }

  remove(id = this.selected) {
    if (!this.layout || !this.where(id)) return;
    const list = this.layout.rows.flat();
    const k = list.findIndex((b) => b.id === id);
    this.selected = list[k + 1]?.id ?? list[k - 1]?.id ?? "";
    const rows = this.layout.rows.map((r) =>
      r.some((b) => b.id === id) ? r.filter((b) => b.id !== id).map((b) => ({ ...b, columns: undefined }) as unknown as LayoutBlock) : r,
    );
    this.set({ ...this.layout, rows: this.clean(rows) });
  }

  double() {
    const block = this.block;
    const at = this.where(this.selected);
    if (!this.layout || !block || !at) return;
    const copy = { ...block, id: this.freshId() };
    this.set({ ...this.layout, rows: this.clean(this.put(this.layout.rows, copy, { row: at.row + 1 })) });
    this.selected = copy.id;
  }

  along(by: number) {
    const list = this.layout?.rows.flat() ?? [];
    const k = list.findIndex((b) => b.id === this.selected);
    this.selected = list[k < 0 ? (by > 0 ? 0 : list.length - 1) : (k + by + list.length) % list.length]?.id ?? "";
  }

  /** Keeps what is there as the next version, or under another name as a layout of its own. */
  async keep(name?: string): Promise<KeptLayout | undefined> {
    if (!this.layout || !this.kept || this.busy) return undefined;
    const copy = name !== undefined || this.kept.shipped;
    this.busy = true;
    try {
      await who.sure();
      const layout = { ...this.layout, name: name ?? this.layout.name };
      const kept = await answer(
        api.POST("/api/batches/{batch}/layouts", {
          params: { path: { batch: this.batch } },
          body: { ...(copy ? {} : { id: this.kept.id, base: this.kept.version }), layout },
        }),
      );
      const chosen = this.selected;
      this.open(this.batch, kept);
      this.selected = chosen;
      await queries.invalidateQueries({ queryKey: ["layouts", this.batch] });
      await queries.invalidateQueries({ queryKey: ["record", this.batch] });
      return kept;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.trouble =
        error.status === 412 || error.status === 409
          ? "Somebody has kept a newer version meanwhile. Keep yours under another name, or discard it."
          : error.message;
      return undefined;
    } finally {
      this.busy = false;
    }
  }
}

export const draft = new LayoutDraft();
