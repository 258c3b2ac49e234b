// A study that takes long to work out follows the hand that turns it by coarser pictures; what is measured comes
// once the hand rests.
const SLOW = 90; // milliseconds from asking to the whole scene, beyond which the hand is not waited for
const WORTH = 0.8; // a picture in motion that takes a larger share of that gains nothing
const REST = 250; // milliseconds without a turn

export class InMotion {
  #moving = false;
  /** @type {ReturnType<typeof setTimeout> | undefined} */
  #resting;
  #whole = 0;
  #inMotion = 0;
  #whenAtRest;

  /** @param {() => void} whenAtRest what is done when the hand rests */
  constructor(whenAtRest) {
    this.#whenAtRest = whenAtRest;
  }

  // An input was turned.
  turned() {
    this.#moving = true;
    clearTimeout(this.#resting);
    this.#resting = setTimeout(() => {
      this.ended();
      this.#whenAtRest();
    }, REST);
  }

  get moving() {
    return this.#moving;
  }

  // What was turned stays as it is now: the next scene is whole. Should none be asked for, the hand rests soon.
  ended() {
    this.#moving = false;
    this.#inMotion = 0; // the next hand may turn another input
  }

  // Whether the next scene is to be one in motion.
  get wanted() {
    return this.#moving && this.#whole > SLOW && this.#inMotion < WORTH * this.#whole;
  }

  // A scene took so many milliseconds, that was to be one in motion, and is one. That of a page which opens says nothing:
  // all in it is new. Where something is wrong with a study there is none in motion.
  took(milliseconds, wanted, isInMotion) {
    if (!this.#resting) return;
    if (wanted) this.#inMotion = isInMotion ? milliseconds : Infinity;
    else this.#whole = milliseconds;
  }
}
