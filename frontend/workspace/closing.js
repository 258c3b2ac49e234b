// Closing what is open: by Escape from anywhere, or by a click elsewhere; one thing at a time.
import { closeMenu, closeMenusBeside } from "../menus.js";

const STILL = 4; // pixels the pointer may move in a click

export const closing = () => ({
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
    if (this.isInserting) this.endInsert();
    else if (this.card) this.closeCard();
    else if (this.isPlacing) this.endPlacing();
    else if (this.isSketching) this.endSketch();
    else if (this.measuring) this.toggleMeasure();
    else if (this.showingLooks) this.showingLooks = false;
    else if (this.cutting) this.toggleCut();
    else if (this.lookingUp) this.closeWords();
    else if (this.showingHistory) this.showingHistory = false;
    else if (this.showingRemarks) this.toggleRemarks();
    else if (this.aim) this.endAim();
    else if (this.isOpen) this.leave();
    else if (this.severalPicked) this.unpick();
    else if (this.drawer) this.drawer = "";
    else return false;
    return true;
  },

  clickedElsewhere(target) {
    closeMenusBeside(target);
    if (!target.isConnected || target.closest("[aria-expanded], dialog")) return; // it has had its own say
    if (this.showingLooks && !target.closest("#looks")) this.showingLooks = false;
    else if (this.showingHistory && !target.closest("#history")) this.showingHistory = false;
    else if (this.card && !target.closest("#card, #stage")) this.closeCard();
    else if (this.isInserting && !target.closest("#insert, .editor")) this.endInsert();
    else if (this.isOpen && isGround(target)) this.keepDraft().then((kept) => kept && this.closeLine());
  },
});

// Where nothing is to be pressed: beside the lines, and the picture.
function isGround(target) {
  return target.id === "sheet" || target.matches("#stage canvas");
}
