// A bar that fits itself: it measures its own content and gives up one thing after another until nothing is cut.
// Never by the width of the window: names, counts and languages differ.

/** Keeps data-gone on the element: as many of the words, in their order, as must go; its style says what each of them is. */
export function fit(bar: HTMLElement, order: string[]) {
  let asked = 0;
  const measure = () => {
    asked = 0;
    for (let gone = 0; gone <= order.length; gone++) {
      bar.dataset.gone = order.slice(0, gone).join(" ");
      if (bar.scrollWidth <= bar.clientWidth) return;
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
