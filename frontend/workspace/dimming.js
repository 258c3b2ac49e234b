// Dims typed on the picture: the input that a dim states takes the value; what a formula states is aimed at.
import { edit } from "./edit.js";

export const dimming = () => ({
  begin() {
    window.ovolo.stage.dims.onType = (dim, label) => this.typeDim(dim, label);
  },

  // A box in the place of what is written at the dim.
  typeDim(dim, label) {
    if (label.querySelector("input") || this.measuring || this.isPlacing) return;
    const box = Object.assign(document.createElement("input"), { className: "dim-typed", value: dim.shown.replaceAll("\u2009", ""), autocomplete: "off" });
    box.setAttribute("aria-label", `${dim.said}, value`);
    let open = true;
    const end = (keep) => {
      if (!open) return; // taking it away takes the focus from it
      open = false;
      const typed = box.value.trim();
      box.remove();
      if (keep && typed && typed !== dim.shown.replaceAll("\u2009", "")) this.dimTyped(dim, typed);
    };
    box.addEventListener("keydown", (event) => {
      if (!["Enter", "Escape"].includes(event.key)) return;
      event.preventDefault();
      event.stopPropagation();
      end(event.key === "Enter");
    });
    box.addEventListener("blur", () => end(false));
    label.append(box);
    box.select();
    box.focus();
  },

  async dimTyped(dim, typed) {
    const input = this.inputs.find((one) => one.name === dim.name);
    if (input) return this.change("edit", edit({ edit: "set", name: input.name, typed }));
    const row = this.rows.find((one) => one.own && one.own === dim.name);
    if (!row) {
      await this.jump(dim.line);
      return this.complain(`this dim states \`${dim.said}\`, which is no line of its own`, "change its line, or name what it states");
    }
    // A formula stands against it: what could move it is shown, and moved.
    await this.beginAim(row);
    if (!this.aim) return undefined;
    this.aim.goal = typed;
    return this.aimAtTyped();
  },
});
