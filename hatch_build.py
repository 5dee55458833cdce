"""Compiles the kernels (``src/**/*.pyx``) where they lie, whenever the package is installed or a wheel is built."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from hatchling.builders.hooks.plugin.interface import BuildHookInterface

# Arithmetic as it is written, so that the same play gives the same numbers on every machine.
FLAGS = ["-O2", "-g0", "-w", "-ffp-contract=off"]
# Indexes are right by construction, and a division by nothing is infinite, as in arrays.
DIRECTIVES = {
    "language_level": 3,
    "boundscheck": False,
    "wraparound": False,
    "cdivision": True,
    "initializedcheck": False,
    "embedsignature": True,
}
NEEDED = "They take a C compiler and Python's headers; on Debian and Ubuntu: apt install gcc libc6-dev python3-dev"
SHARED, SHARED_WORDS = "veergust.core.motion.kernels._arrays", "build/_arrays.c"


class Kernels(BuildHookInterface[Any]):
    """Has Cython and the machine's C compiler make an extension module of each kernel file."""

    def initialize(self, version: str, build_data: dict[str, Any]) -> None:
        """Compile, and have the wheel take what was compiled."""
        from Cython.Build import cythonize
        from setuptools import Distribution, Extension
        from setuptools.errors import CCompilerError

        os.chdir(self.root)
        modules = [
            Extension(".".join(path.with_suffix("").parts[1:]), [str(path)], extra_compile_args=FLAGS)
            for path in sorted(Path("src").rglob("*.pyx"))
        ]
        # What arrays need is compiled once for all of them.
        Path(SHARED_WORDS).parent.mkdir(exist_ok=True)
        modules.append(Extension(SHARED, [SHARED_WORDS], extra_compile_args=FLAGS))
        made = cythonize(
            modules,
            build_dir="build",
            include_path=["src"],
            compiler_directives=DIRECTIVES,
            shared_utility_qualified_name=SHARED,
            quiet=True,
        )
        command = Distribution({"ext_modules": made, "package_dir": {"": "src"}}).get_command_obj("build_ext")
        command.inplace, command.parallel, command.build_temp = True, os.cpu_count(), "build"
        command.ensure_finalized()
        try:
            command.run()
        except CCompilerError as error:
            raise SystemExit(
                f"\nVeergust was not installed: its kernels could not be compiled. {NEEDED}\n({error})"
            ) from None
        build_data["pure_python"] = False
        build_data["infer_tag"] = True
        build_data["artifacts"].append("src/veergust/**/*.so")
