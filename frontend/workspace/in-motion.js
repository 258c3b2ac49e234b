// A study that takes long to work out follows the hand that turns it by coarser pictures; what is measured comes
// once the hand rests.
const SLOW = 90; // milliseconds from asking to the whole scene, beyond which the hand is not waited for
const WORTH = 0.8; // a picture in motion that takes a larger share of that gains nothing
const TRIES = 3; // so many of them, one after another, and there are no more: one may have been held up
const ANEW = 3; // times as long as a turn takes what is worked out from nothing
const HEARD = 40; // milliseconds in which a turn that was made already is heard of
const REST = 210; // milliseconds without a turn

export class InMotion {
  #moving = false;
  /** @type {ReturnType<typeof setTimeout> | undefined} */
  #resting;
  #whole = 0;
  #isGuessed = true;
  #vain = 0; // how many in motion gained nothing
  #whenAtRest;

  /** @param {() => void} whenAtRest what is done when the hand rests */
  constructor(whenAtRest) {
    this.#whenAtRest = whenAtRest;
  }

  // An input was turned.
  turned() {
    this.#moving = true;
    clearTimeout(this.#resting);
    // After a picture that took long, turns may wait that were made meanwhile: they are heard first.
    this.#resting = setTimeout(() => (this.#resting = setTimeout(() => this.#rests(), HEARD)), REST);
  }

  #rests() {
    this.ended();
    this.#whenAtRest();
  }

  get moving() {
    return this.#moving;
  }

  // What was turned stays as it is now: the next scene is whole. Should none be asked for, the hand rests soon.
  ended() {
    this.#moving = false;
    this.#vain = 0; // the next hand may turn another input
  }

  // Whether the next scene is to be one in motion.
  get wanted() {
    return this.#moving && this.#whole > SLOW && this.#vain < TRIES;
  }

  // A scene took so many milliseconds, that was to be one in motion, and is one. That of a page which opens takes longer
  // than one of a turn, for all in it is new. Where something is wrong with a study there is none in motion.
  took(milliseconds, wanted, isInMotion) {
    if (!wanted) {
      this.#isGuessed = !this.#resting;
      this.#whole = milliseconds / (this.#isGuessed ? ANEW : 1);
    } else if (!isInMotion) this.#vain = TRIES;
    else this.#vain = this.#isGuessed || milliseconds < WORTH * this.#whole ? 0 : this.#vain + 1;
  }
}
