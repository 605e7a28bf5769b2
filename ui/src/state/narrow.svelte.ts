// Below this width the side column of a station is a sheet that is opened, and the scroll stands folded.
const least = 1180; // px
const wide = matchMedia(`(min-width: ${least}px)`);

class Narrow {
  is = $state(!wide.matches);
  /** The side column stands open as a sheet. */
  open = $state(false);
  /** The scroll was unfolded in this narrow window. */
  unfolded = $state(false);

  constructor() {
    wide.addEventListener("change", () => {
      this.is = !wide.matches;
      this.open = false;
      this.unfolded = false;
    });
  }
}

export const narrow = new Narrow();
