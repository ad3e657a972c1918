"""Shapes at load time: where each stands, tiles merged, outlines grown by the body, cells of the grid."""
