// A file that the server made is kept by the browser.
export function saveAs(file, name) {
  const link = Object.assign(document.createElement("a"), { href: URL.createObjectURL(file), download: name });
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
