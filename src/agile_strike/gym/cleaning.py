"""For migrations: figures that are none, taken out before the database is told to refuse them."""

from collections.abc import Callable
from typing import Any

from django.db.models import Q


def without_nan(app: str, *models: str) -> Callable[[Any, Any], None]:
    """A step that makes NaN and infinities of nullable columns of `models` absent."""

    def step(apps: Any, schema_editor: Any) -> None:
        for name in models:
            model = apps.get_model(app, name)
            for field in model._meta.get_fields():
                if getattr(field, "get_internal_type", lambda: "")() == "FloatField" and field.null:
                    none = Q(**{f"{field.name}__gte": float("inf")}) | Q(**{f"{field.name}__lte": float("-inf")})
                    model.objects.filter(none).update(**{field.name: None})

    return step
