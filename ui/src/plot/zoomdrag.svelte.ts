// Dragging over a picture chooses a stretch of time; letting go shows it. A press without a drag is told as a click.
import type { Frame } from "./frame";
import type { Window } from "./window.svelte";

/** Where an event lies in an element, px from its left. */
export const pxIn = (e: MouseEvent, el: Element) => e.clientX - el.getBoundingClientRect().left;

export class ZoomDrag {
  /** The stretch that is being dragged, px; null where none is. */
  stretch = $state<[number, number] | null>(null);

  press(e: PointerEvent, frame: () => Frame, view: Window, click?: (e: PointerEvent, svg: SVGSVGElement) => void) {
    const svg = e.currentTarget as SVGSVGElement;
    const start = pxIn(e, svg);
    svg.setPointerCapture(e.pointerId);
    const move = (ev: PointerEvent) => {
      const f = frame();
      const at = Math.max(f.x0, Math.min(f.x1, pxIn(ev, svg)));
      if (Math.abs(at - start) > 4) this.stretch = [Math.min(start, at), Math.max(start, at)];
    };
    const up = (ev: PointerEvent) => {
      svg.removeEventListener("pointermove", move);
      svg.removeEventListener("pointerup", up);
      const f = frame();
      if (this.stretch) view.show(f.ix(this.stretch[0]), f.ix(this.stretch[1]));
      else click?.(ev, svg);
      this.stretch = null;
    };
    svg.addEventListener("pointermove", move);
    svg.addEventListener("pointerup", up);
  }
}
