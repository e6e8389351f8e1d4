"""What a flavor's own service file gives its app: the file that the build takes, and the values in it.

Source: the services' documentation of ``google-services.json`` (which strings its Gradle plug-in makes of it) and
``GoogleService-Info.plist``.
"""

from __future__ import annotations

import json

from onomaxis.brands.services import module_folder
from onomaxis.errors import FormatError
from onomaxis.flavor_names import in_order
from onomaxis.formats.binary.plist import read_any_plist
from onomaxis.packages.expected import Expected
from onomaxis.packages.facts import below
from onomaxis.projects.services import GOOGLE_ANDROID, GOOGLE_IOS, for_variant, read_service, service_files
from onomaxis.tree import join, parent


def service_file_of(expected: Expected) -> tuple[str, bytes] | None:
    """Return the service file that a flavor is built with: the identity file's, else the one that the build takes."""
    tree, project = expected.context.tree, expected.subject.project
    said = expected.brand.files.get(f"google-{expected.platform}") if expected.brand is not None else None
    if said is not None and expected.context.file is not None:
        path = join(parent(expected.context.file.path), said.text)
        data = tree.named_file(path)
        known = read_service(GOOGLE_ANDROID if expected.platform == "android" else GOOGLE_IOS, data or b"")
        if known.knows(expected.id) or expected.subject.bound(expected.context.file, expected.app.flavor):
            return (path, data) if data is not None else None
    name = GOOGLE_ANDROID if expected.platform == "android" else GOOGLE_IOS
    files = service_files(tree, name, project.folder)
    knowing = [file for file in files if file.knows(expected.id)]
    chosen = None
    if expected.platform == "android":
        flavors = [expected.app.flavor, *in_order(expected.app.flavor, expected.subject.flavors)]
        chosen = for_variant(files, module_folder(expected.subject), flavors, "release")
    chosen = chosen if chosen is not None and chosen.knows(expected.id) else next(iter(knowing), None)
    data = tree.read(chosen.path) if chosen is not None else None
    return (chosen.path, data) if chosen is not None and data is not None else None


# Where the plug-in takes each string from: of the project, or of the app's own client.
_OF_PROJECT = {
    "gcm_defaultSenderId": "project_number",
    "project_id": "project_id",
    "google_storage_bucket": "storage_bucket",
    "firebase_database_url": "firebase_url",
}
_WEB_CLIENT = 3


def android_service(data: bytes, app_id: str) -> dict[str, str]:
    """Return the strings that a ``google-services.json`` gives an app; none where it does not know the app."""
    try:
        document = json.loads(data)
        project, clients = document["project_info"], document["client"]
        found = {name: project[key] for name, key in _OF_PROJECT.items() if key in project}
        for client in clients:
            info = client["client_info"]
            if info["android_client_info"]["package_name"] == app_id:
                found["google_app_id"] = info["mobilesdk_app_id"]
                keys = [item["current_key"] for item in client.get("api_key", ())]
                web = [i["client_id"] for i in client.get("oauth_client", ()) if i.get("client_type") == _WEB_CLIENT]
                found |= {"google_api_key": keys[0]} if keys else {}
                found |= {"default_web_client_id": web[0]} if web else {}
                return {name: text for name, text in found.items() if isinstance(text, str)}
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return {}
    return {}


def apple_service(data: bytes) -> dict[str, str]:
    """Return what a ``GoogleService-Info.plist`` says."""
    try:
        table = read_any_plist(data, "")
    except FormatError:
        return {}
    return {key: text for key in table if (text := below(table, key)) is not None}
