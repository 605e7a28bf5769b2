// A control whose name is not written on it says it on pointing, as it says it to a screen reader.
const controls = "button, a[href], input, select, textarea, [role=slider], [role=button]";

/** Gives the control under the pointer its name as a tooltip, where nothing else has one. Returns what ends it. */
export function nameControls(): () => void {
  const ended = new AbortController();
  addEventListener(
    "pointerover",
    (e) => {
      const control = (e.target as Element).closest?.(controls);
      const name = control?.getAttribute("aria-label");
      if (!control || !name || control.closest("[title]")) return;
      if (control instanceof SVGElement) {
        const title = document.createElementNS("http://www.w3.org/2000/svg", "title");
        title.textContent = name;
        if (!control.querySelector("title")) control.append(title);
      } else control.setAttribute("title", name);
    },
    { signal: ended.signal },
  );
  return () => ended.abort();
}
