// Handing files over: fetched first, so that a refusal is said on the page and not saved as a file.
import { fetchFile } from "../server.js";
import { folded } from "../elements.js";

export async function saveFrom(address, name) {
  saveAs(await fetchFile(address), name);
}

// Hands a file that is here already to the browser to be saved.
export function saveAs(blob, name) {
  const link = Object.assign(document.createElement("a"), { href: URL.createObjectURL(blob), download: name });
  link.click();
  URL.revokeObjectURL(link.href);
}

export const handover = () => ({
  // Files are called by their study: all its parts, or what else there is of it.
  fileNamed(file) {
    return file.startsWith("parts.") ? file.replace("parts", this.fileTitle) : `${this.fileTitle}-${file}`;
  },

  async handOver(event) {
    const link = event.target.closest("a[download]");
    if (!link) return;
    event.preventDefault();
    folded("hand-over").open = false;
    try {
      await saveFrom(link.href, this.fileNamed(decodeURIComponent(new URL(link.href).pathname.split("/").pop())));
      this.complain(); // a refusal goes when the next succeeds
    } catch (error) {
      this.fail(error);
    }
  },
});
