/** Light, dark, or as the system says; remembered on this machine. */
type Theme = "system" | "light" | "dark";
const KEY = "neige-theme";
const ORDER: Theme[] = ["system", "light", "dark"];

let current = $state<Theme>((localStorage.getItem(KEY) as Theme | null) ?? "system");

function apply() {
  if (current === "system") delete document.documentElement.dataset.theme;
  else document.documentElement.dataset.theme = current;
}

apply();

export const theme = {
  get value() {
    return current;
  },
  next() {
    current = ORDER[(ORDER.indexOf(current) + 1) % ORDER.length]!;
    localStorage.setItem(KEY, current);
    apply();
  },
};
