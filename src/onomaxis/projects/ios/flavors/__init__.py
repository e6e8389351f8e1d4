"""Flavors of an Xcode project: build configurations per build type and flavor, with all that makes them an app.

A flavor says what it is called in one configuration file, as ``BRAND_ID`` and ``BRAND_NAME``; its configurations
refer to those. Sources of the rules: Apple, "Adding a build configuration file to your project", "Build settings
reference", "Customizing the build schemes for a project"; CocoaPods, "Podfile syntax reference" (project).
"""

from onomaxis.projects.ios.flavors.adding import add_flavor
from onomaxis.projects.ios.flavors.own import own_facet
from onomaxis.projects.ios.flavors.retiring import retire_flavor

__all__ = ["add_flavor", "own_facet", "retire_flavor"]
