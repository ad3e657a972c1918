"""The simulation: tables of constants, state, kernels. It knows no file, no plot and no terminal."""
