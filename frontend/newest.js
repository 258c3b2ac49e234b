// Questions whose answers are shown in the same place: answers overtake each other on their way, and what
// is shown must answer what was asked last.

export class Newest {
  #asked = 0;

  // The answer; undefined where it is wanted no more, for something newer was asked or it was dropped
  // meanwhile. Then neither is it told why it failed.
  /** @template T  @param {() => Promise<T>} ask  @returns {Promise<T | undefined>} */
  async of(ask) {
    this.#asked += 1;
    const mine = this.#asked;
    try {
      const answer = await ask();
      return mine === this.#asked ? answer : undefined;
    } catch (error) {
      if (mine === this.#asked) throw error;
      return undefined;
    }
  }

  // What is on its way is wanted no more.
  drop() {
    this.#asked += 1;
  }
}

// What changes something is carried out in the order in which it was asked for; each waits for the one before it.
export class InTurn {
  /** @type {Promise<unknown>} */
  #before = Promise.resolve();

  /** @template T  @param {() => Promise<T>} work  @returns {Promise<T>} */
  run(work) {
    const mine = this.#before.then(work);
    this.#before = mine.catch(() => null);
    return mine;
  }
}
