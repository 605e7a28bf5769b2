class Finder {
  open = $state(false);
}

export const finder = new Finder();
