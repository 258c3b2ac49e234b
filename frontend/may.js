// What whoever looks at this page may do with its study: the names of rights, as the page says them.
export function may(right) {
  const { may: said } = document.body.dataset;
  return said === undefined || said.split(" ").includes(right);
}
