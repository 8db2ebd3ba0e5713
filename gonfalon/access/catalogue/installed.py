"""What is installed: what ships, and what the packages in the settings bring. The same as long as a process runs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache

from django.conf import settings
from django.core.exceptions import ImproperlyConfigured

from gonfalon.access.catalogue import shipped
from gonfalon.access.catalogue.manifests import read_manifest
from gonfalon.access.catalogue.things import Component, ContentType, Duty, Extension


@dataclass(frozen=True)
class Installed:
    """Everything there could be to say something about, whether it is switched on or not."""

    types: Mapping[str, ContentType]
    components: Mapping[str, Component]
    duties: Mapping[str, Duty]
    extensions: Mapping[str, Extension]

    @property
    def brought_types(self) -> frozenset[str]:
        """The kinds of content that come with extensions."""
        return frozenset(type.key for extension in self.extensions.values() for type in extension.types)

    @property
    def brought(self) -> frozenset[str]:
        """The keys of all that comes with extensions."""
        return frozenset(key for extension in self.extensions.values() for key in extension.brings)


@cache
def installed() -> Installed:
    """What this process can serve. Raises ImproperlyConfigured where something is wrong with an extension."""
    return install(settings.EXTENSIONS)


def install(packages: Sequence[str]) -> Installed:
    """What ships together with what some packages bring. Raises ImproperlyConfigured."""
    types = {type.key: type for type in shipped.TYPES}
    components = {component.key: component for component in shipped.COMPONENTS}
    duties = {duty.key: duty for duty in shipped.DUTIES}
    extensions: dict[str, Extension] = {}
    for package in packages:
        extension = read_manifest(package)
        known = {**extensions, **types, **components, **duties}
        for key in (extension.key, *extension.brings):
            if key in known:
                raise ImproperlyConfigured(f"{package}/manifest.toml: “{key}” is there already")
        extensions[extension.key] = extension
        types |= {type.key: type for type in extension.types}
        components |= {component.key: component for component in extension.components}
        duties |= {duty.key: duty for duty in extension.duties}
    return Installed(types, components, duties, extensions)
