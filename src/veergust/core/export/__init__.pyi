from .axes import Axes as Axes
from .documents import MadeBefore as MadeBefore
from .documents import documents as documents
from .documents import to_json as to_json
from .manifest import MANIFEST as MANIFEST
from .manifest import make_manifest as make_manifest
from .writing import Exported as Exported
from .writing import export as export
