// Closing what is open: by Escape from anywhere, or by a click elsewhere; one thing at a time.
import { closeMenu, closeMenusBeside } from "../menus.js";

const STILL = 4; // pixels the pointer may move in a click

export const closing = () => ({
  needs: ["remarks", "writing", "several", "inserting", "looking", "measuring", "drawer", "history", "placing", "sketching", "aiming", "words"],

  begin() {
    let pressed = null;
    addEventListener("pointerdown", (event) => (pressed = event), true);
    addEventListener("click", (event) => {
      const moved = pressed && Math.hypot(event.clientX - pressed.clientX, event.clientY - pressed.clientY) > STILL;
      if (!moved && event.target instanceof Element) this.clickedElsewhere(event.target);
    });
  },

  // What Escape closes, the newest above all. True where there was something.
  closeOne() {
    if (closeMenu()) return true;
    if (this.inserting.isInserting) this.inserting.endInsert();
    else if (this.looking.card) this.looking.closeCard();
    else if (this.placing.isPlacing) this.placing.end();
    else if (this.sketching.isSketching) this.sketching.end();
    else if (this.measuring.on) this.measuring.toggle();
    else if (this.looking.showingLooks) this.looking.showingLooks = false;
    else if (this.looking.cutting) this.looking.toggleCut();
    else if (this.words.open) this.words.close();
    else if (this.history.open) this.history.open = false;
    else if (this.remarks.open) this.remarks.toggle();
    else if (this.aiming.aim) this.aiming.endAim();
    else if (this.writing.isOpen) this.writing.leave();
    else if (this.several.severalPicked) this.several.unpick();
    else if (this.drawer.tab) this.drawer.tab = "";
    else return false;
    return true;
  },

  clickedElsewhere(target) {
    closeMenusBeside(target);
    if (!target.isConnected || target.closest("[aria-expanded], dialog")) return; // it has had its own say
    if (this.looking.showingLooks && !target.closest("#looks")) this.looking.showingLooks = false;
    else if (this.history.open && !target.closest("#history")) this.history.open = false;
    else if (this.looking.card && !target.closest("#card, #stage")) this.looking.closeCard();
    else if (this.inserting.isInserting && !target.closest("#insert, .editor")) this.inserting.endInsert();
    else if (this.writing.isOpen && isGround(target)) this.writing.keepDraft().then((kept) => kept && this.writing.closeLine());
  },
});

// Where nothing is to be pressed: beside the lines, and the picture.
function isGround(target) {
  return target.id === "sheet" || target.matches("#stage canvas");
}
