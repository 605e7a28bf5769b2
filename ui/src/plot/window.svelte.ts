// The stretch of the run that is shown, with the way back and forward through zooms.
import type { Peak, Trace } from "../api/client";

export class Window {
  from = $state(0);
  to = $state(1);
  lift = $state(1); // signal magnification from the baseline
  private past: [number, number][] = [];
  private future: [number, number][] = [];
  private whole = $state<[number, number]>([0, 1]);

  /** Sets the whole run; the shown stretch is kept where it still fits. */
  run(start: number, end: number) {
    const same = this.whole[0] === start && this.whole[1] === end;
    if (same) return;
    const wasWhole = this.from === this.whole[0] && this.to === this.whole[1];
    this.whole = [start, end];
    if (wasWhole || this.from < start || this.to > end) this.show(start, end, false);
  }

  get runStart() {
    return this.whole[0];
  }
  get runEnd() {
    return this.whole[1];
  }

  show(from: number, to: number, remember = true) {
    const least = (this.whole[1] - this.whole[0]) / 5000;
    if (!(to - from > least)) return;
    const span = Math.min(to - from, this.whole[1] - this.whole[0]);
    from = Math.max(this.whole[0], Math.min(this.whole[1] - span, from));
    if (remember) {
      this.past.push([this.from, this.to]);
      this.future = [];
    }
    this.from = from;
    this.to = from + span;
  }

  all() {
    this.lift = 1;
    this.show(this.whole[0], this.whole[1]);
  }

  /** Zooms about a time; factor below 1 goes nearer. */
  zoom(at: number, factor: number) {
    this.show(at - (at - this.from) * factor, at + (this.to - at) * factor, false);
  }

  pan(by: number) {
    this.show(this.from + by, this.to + by, false);
  }

  back() {
    const last = this.past.pop();
    if (!last) return;
    this.future.push([this.from, this.to]);
    [this.from, this.to] = last;
  }

  forward() {
    const next = this.future.pop();
    if (!next) return;
    this.past.push([this.from, this.to]);
    [this.from, this.to] = next;
  }

  private opened = false;

  /**
   * Takes the run from a trace and, the first time there are peaks, shows the stretch that holds them. True when it did, so that a
   * caller can show another stretch instead.
   */
  open(trace: Trace | undefined, peaks: Peak[] | undefined): boolean {
    if (!trace || trace.min.length === 0) return false;
    this.run(trace.min[0]!, trace.min.at(-1)!);
    if (this.opened || !peaks) return false;
    this.opened = true;
    if (peaks.length > 0) this.show(peaks[0]!.start_min - 0.4, peaks.at(-1)!.end_min + 0.4, false);
    return true;
  }

  /** The keys that zoom and pan. */
  keys() {
    const middle = () => (this.from + this.to) / 2;
    const step = () => (this.to - this.from) / 8;
    return {
      "0": () => this.all(),
      "+": () => this.zoom(middle(), 0.7),
      "-": () => this.zoom(middle(), 1 / 0.7),
      "shift+ArrowLeft": () => this.pan(-step()),
      "shift+ArrowRight": () => this.pan(step()),
      "<": () => this.back(),
      ">": () => this.forward(),
    };
  }
}
