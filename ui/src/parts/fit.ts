// A bar that fits itself: it measures its own content and gives up one thing after another until nothing is cut.
// Never by the width of the window: names, counts and languages differ.

/** Keeps data-gone on the element: as many of the words, in their order, as must go; its style says what each of them is. */
export function fit(bar: HTMLElement, order: string[]) {
  let asked = 0;
  /** What is wider than the bar begins by taking the room at its end, which scrolling does not tell. */
  const fits = () => {
    const room = bar.getBoundingClientRect().right - parseFloat(getComputedStyle(bar).paddingRight);
    return bar.scrollWidth <= bar.clientWidth && (bar.lastElementChild?.getBoundingClientRect().right ?? 0) <= room + 0.5;
  };
  const measure = () => {
    asked = 0;
    for (let gone = 0; gone <= order.length; gone++) {
      bar.dataset.gone = order.slice(0, gone).join(" ");
      if (fits()) return;
    }
  };
  const later = () => (asked ||= requestAnimationFrame(measure));
  const resized = new ResizeObserver(later);
  resized.observe(bar);
  const changed = new MutationObserver(later);
  changed.observe(bar, { childList: true, subtree: true, characterData: true });
  void document.fonts.ready.then(later);
  measure();
  return {
    destroy() {
      cancelAnimationFrame(asked);
      resized.disconnect();
      changed.disconnect();
    },
  };
}
