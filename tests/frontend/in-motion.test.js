// When a picture in motion is asked for, without a page.
import assert from "node:assert/strict";
import { mock, test } from "node:test";

import { InMotion } from "../../frontend/workspace/in-motion.js";

// A hand that has turned, and saw how long a whole scene takes.
function handThatSaw(milliseconds) {
  const hand = new InMotion(() => {});
  hand.turned();
  hand.took(milliseconds, false, false);
  return hand;
}

test("a page that opens takes longer than a turn", () => {
  for (const [milliseconds, wanted] of [[200, false], [900, true]]) {
    const hand = new InMotion(() => {});
    hand.took(milliseconds, false, false);
    assert.equal(hand.wanted, false, "nothing is turned");
    hand.turned();
    assert.equal(hand.wanted, wanted);
  }
});

test("nothing is in motion before a hand turns, and what is quick never is", () => {
  const hand = handThatSaw(300);
  assert.equal(hand.wanted, true);
  hand.ended();
  assert.equal(hand.wanted, false);
  hand.turned();
  hand.took(40, false, false);
  assert.equal(hand.wanted, false);
});

test("it is given up where it gains nothing again and again, until the next hand", () => {
  const hand = handThatSaw(300);
  for (const milliseconds of [100, 290, 900, 100, 290, 290]) {
    hand.took(milliseconds, true, true);
    assert.equal(hand.wanted, true, "one or two may have been held up");
  }
  hand.took(290, true, true);
  assert.equal(hand.wanted, false);
  hand.ended();
  hand.turned();
  assert.equal(hand.wanted, true);
});

test("it is given up where there is none, for something is wrong", () => {
  const hand = handThatSaw(300);
  hand.took(400, true, false);
  assert.equal(hand.wanted, false);
  hand.took(300, false, false);
  assert.equal(hand.wanted, false);
  hand.ended();
  hand.turned();
  assert.equal(hand.wanted, true);
});

test("a hand that rests is told once, whether it was let go or not", () => {
  mock.timers.enable({ apis: ["setTimeout"] });
  const rest = () => [220, 60].forEach((milliseconds) => mock.timers.tick(milliseconds));
  let rests = 0;
  const hand = new InMotion(() => (rests += 1));
  hand.turned();
  mock.timers.tick(200);
  hand.turned();
  mock.timers.tick(200);
  assert.equal(rests, 0, "it was turned on");
  rest();
  assert.equal(rests, 1);
  hand.turned();
  hand.ended();
  assert.equal(hand.wanted, false);
  rest();
  rest();
  assert.equal(rests, 2);
  mock.timers.reset();
});
