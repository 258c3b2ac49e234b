// The study that a page is about, and the revision of it that is shown.
export const study = () => ({
  number: 0,
  address: "", // ends in a slash
  revision: 0,
  used: {}, // the newest revisions of the studies it uses

  begin(state) {
    this.number = state.study;
    this.address = state.address ?? `/studies/${state.study}/`;
    this.revision = state.revision;
  },
});
