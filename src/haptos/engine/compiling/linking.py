"""How a kernel and the leaves that it calls become one program.

Left to itself, Numba optimises every function together with all that it calls, makes machine code of it, and does so
again in each caller: work that is thrown away for functions that only a kernel calls. Here a leaf stays as it was
lowered, and a kernel takes in all leaves below it. `building` then makes them its own and optimises the whole once; as
nobody else can call them then, LLVM is free to inline them and to take their arguments apart.

This rests on the insides of Numba, which is why the project names the release that it must stay below.
"""

from __future__ import annotations

import gc
from typing import Any

import numba._dynfunc as dynfunc
from numba.core import codegen, compiler, typed_passes, untyped_passes
from numba.core.compiler_machinery import register_pass

# What these look for does not occur in leaves: closures, loops over types, expressions of whole arrays, functions to
# be taken in before they are typed; and nobody reads the source beside the types.
NEEDLESS = (
    untyped_passes.WithLifting,
    untyped_passes.InlineClosureLikes,
    untyped_passes.MakeFunctionToJitFunction,
    untyped_passes.FindLiterallyCalls,
    untyped_passes.LiteralUnroll,
    untyped_passes.LiteralPropagationSubPipelinePass,
    untyped_passes.InlineInlinables,
    typed_passes.InlineOverloads,
    typed_passes.AnnotateTypes,
    typed_passes.NopythonRewrites,
)

JITCodeLibrary: Any = codegen.JITCodeLibrary
NativeLowering: Any = typed_passes.NativeLowering
CompilerBase: Any = compiler.CompilerBase


class LeafLibrary(JITCodeLibrary):
    """The code of one leaf, as it was lowered, for kernels to take in."""

    def add_llvm_module(self, module: Any) -> None:
        """Keep a module as it is."""
        module.data_layout = self._codegen._data_layout
        self._final_module.link_in(module)

    def finalize(self) -> None:
        """End without machine code, and without what the leaf calls: the kernel asks for that itself."""
        self._raise_if_finalized()
        self._finalize_dynamic_globals()
        self._finalized = True


class KernelLibrary(JITCodeLibrary):
    """The code of a kernel and of everything below it, as it was lowered."""

    def add_linking_library(self, library: Any) -> None:
        """Take in a library and all that it calls; callers first, since LLVM drops what nobody has called yet."""
        library._ensure_finalized()
        if library in self._linking_libraries:
            return
        self._linking_libraries.append(library)
        for called in library._linking_libraries:
            self.add_linking_library(called)

    def finalize(self) -> None:
        """End as one module, which nobody has optimised yet."""
        self._raise_if_finalized()
        for library in self._linking_libraries:
            self._final_module.link_in(library._get_module_for_linking(), preserve=True)
        self._finalized = True

    @property
    def module(self) -> Any:
        """That module, of LLVM."""
        self._ensure_finalized()
        return self._final_module


@register_pass(mutates_CFG=True, analysis_only=False)
class LeafLowering(NativeLowering):
    """Lower a leaf and make it known to its callers, without an address."""

    _name = "leaf_lowering"

    def run_pass(self, state: Any) -> bool:
        """Lower one function."""
        state.library = LeafLibrary(state.targetctx.codegen(), state.func_id.func_qualname)
        state.flags.no_compile = True
        super().run_pass(state)
        lowered = state["cr"]
        # Numba looks a compiled function up by an object of this sort; its address is never used.
        name = lowered.fndesc.qualname.split(".")[-1]
        entry = dynfunc.make_function(lowered.fndesc.lookup_module(), name, name, 0, lowered.env, (state.library,))
        state.targetctx.insert_user_function(entry, lowered.fndesc, [state.library])
        state["cr"] = lowered._replace(cfunc=entry)
        return True


@register_pass(mutates_CFG=True, analysis_only=False)
class KernelLowering(NativeLowering):
    """Lower a kernel into a library that takes in its leaves."""

    _name = "kernel_lowering"

    def run_pass(self, state: Any) -> bool:
        """Lower one function."""
        state.library = KernelLibrary(state.targetctx.codegen(), state.func_id.func_qualname)
        state.flags.no_compile = True
        done: bool = super().run_pass(state)
        return done


def _pipeline(state: Any, lowering: type, needless: tuple[type, ...]) -> Any:
    """Return Numba's usual passes with another lowering and without some."""
    pipeline: Any = compiler.DefaultPassBuilder.define_nopython_pipeline(state)
    usual = [(step, text) for step, text in pipeline.passes if step not in needless]
    pipeline.passes[:] = [(lowering if step is NativeLowering else step, text) for step, text in usual]
    pipeline.finalize()
    return pipeline


class LeafCompiler(CompilerBase):
    """The passes that a leaf goes through."""

    def define_pipelines(self) -> list[Any]:
        """Return the passes."""
        return [_pipeline(self.state, LeafLowering, NEEDLESS)]


class KernelCompiler(CompilerBase):
    """The passes that a kernel goes through."""

    def define_pipelines(self) -> list[Any]:
        """Return the passes."""
        return [_pipeline(self.state, KernelLowering, ())]

    def compile_extra(self, function: Any) -> Any:
        """Compile a kernel, and with it every leaf that it calls, without a search for garbage in between.

        Compiling keeps nearly all that it makes, so that the search finds little, and takes a twentieth of the time.
        """
        was_on = gc.isenabled()
        gc.disable()
        try:
            return super().compile_extra(function)
        finally:
            if was_on:
                gc.enable()
