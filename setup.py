"""The compiled parts: what is done to each line of a file, and to each value."""

from Cython.Build import cythonize
from setuptools import Extension, setup

COMPILED = ("kettlesort.core.formats.scanner", "kettlesort.core.text.glance")

setup(ext_modules=cythonize([Extension(name, [f"src/{name.replace('.', '/')}.pyx"]) for name in COMPILED], build_dir="build"))
