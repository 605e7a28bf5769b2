// Paper or Night. The choice is the analyst's, and kept.
class Light {
  night = $state(localStorage.getItem("yugen-light") === "night");

  constructor() {
    this.show();
  }

  toggle() {
    this.night = !this.night;
    localStorage.setItem("yugen-light", this.night ? "night" : "paper");
    this.show();
  }

  private show() {
    document.documentElement.dataset.light = this.night ? "night" : "paper";
  }
}

export const light = new Light();
