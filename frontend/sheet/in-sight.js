// The line that is open stays in sight when the sheet becomes less high, as it does when the drawer opens: where its top
// could be seen before.

/** @param {HTMLElement} sheet */
export const keepOpenLineInSight = (sheet) => {
  let height = sheet.clientHeight;
  new ResizeObserver(() => {
    const before = height;
    height = sheet.clientHeight;
    const open = sheet.querySelector(".editor");
    if (!open || height >= before) return;
    const top = open.getBoundingClientRect().top - sheet.getBoundingClientRect().top;
    if (top >= 0 && top < before) open.querySelector(".line-editor")?.scrollIntoView({ block: "nearest" });
  }).observe(sheet);
};
