"""The kernel under the words: placements, regions, solids, meshes and their feature edges."""
