"""What Django looks for in a database backend."""

from typing import Any

from django.db.backends.postgresql import base
from psycopg_pool import PoolTimeout

from agile_strike.gym.database import HeldToTime, note_over, refuse_if_over


class DatabaseWrapper(base.DatabaseWrapper):
    @property
    def pool(self) -> Any:
        options = self.settings_dict["OPTIONS"].get("pool")
        if options:
            options.setdefault("connection_class", HeldToTime)
        return super().pool

    def get_new_connection(self, conn_params: dict[str, Any]) -> Any:
        refuse_if_over()
        try:
            return super().get_new_connection(conn_params)
        except PoolTimeout:
            note_over()
            raise
