// Dims typed on the picture: the input that a dim states takes the value; what a formula states is aimed at.
import { edit } from "./edit.js";

export const dimming = () => ({
  needs: ["saving", "showing", "measuring", "drawer", "placing", "aiming"],

  begin() {
    window.ovolo.stage.dims.onType = (dim, label) => this.typeDim(dim, label);
  },

  // A box in the place of what is written at the dim.
  typeDim(dim, label) {
    if (label.querySelector("input") || this.measuring.on || this.placing.isPlacing) return;
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
    const input = this.showing.inputs.find((one) => one.name === dim.name);
    if (input) return this.saving.change("edit", edit({ edit: "set", name: input.name, typed }));
    const row = this.showing.rows.find((one) => one.own && one.own === dim.name);
    if (!row) {
      await this.drawer.jump(dim.line);
      return this.saving.complain(`this dim states \`${dim.said}\`, which is no line of its own`, "change its line, or name what it states");
    }
    // A formula stands against it: what could move it is shown, and moved.
    await this.aiming.beginAim(row);
    if (!this.aiming.aim) return undefined;
    this.aiming.aim.goal = typed;
    return this.aiming.aimAtTyped();
  },
});
