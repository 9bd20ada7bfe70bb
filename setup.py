"""The one compiled part: the scanner of tagged text."""

from Cython.Build import cythonize
from setuptools import Extension, setup

setup(
    ext_modules=cythonize([Extension("kettlesort.core.formats.scanner", ["src/kettlesort/core/formats/scanner.pyx"])], build_dir="build"),
)
