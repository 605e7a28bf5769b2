// Whether the other signals of an injection's file stand in lanes under the picture.
const memory = "yugen-lanes";
let shown = $state(localStorage.getItem(memory) === "shown");

export const lanes = {
  get shown() {
    return shown;
  },
  set shown(is: boolean) {
    shown = is;
    localStorage.setItem(memory, is ? "shown" : "");
  },
};
