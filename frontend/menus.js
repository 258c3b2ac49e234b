// Menus that fold out: one closes by Escape, and by a click beside it.
import { all } from "./elements.js";

const OPEN = "details.menu[open]";

// Closes the menu that is open; true where there was one.
export function closeMenu() {
  const [menu] = all(OPEN);
  if (!menu) return false;
  menu.removeAttribute("open");
  menu.querySelector("summary").focus();
  return true;
}

export function closeMenusBeside(target) {
  for (const menu of all(OPEN)) if (!menu.contains(target)) menu.removeAttribute("open");
}

// For a page whose menus are folded by nothing else.
export function foldMenus() {
  addEventListener("click", ({ target }) => target instanceof Element && closeMenusBeside(target));
  addEventListener("keydown", ({ key }) => key === "Escape" && closeMenu());
}
