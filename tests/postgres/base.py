"""Tables that are never emptied are emptied between tests all the same: by their owner, with the triggers asleep."""

from django.db import transaction
from django.db.backends.postgresql import base, operations


class DatabaseOperations(operations.DatabaseOperations):
    def execute_sql_flush(self, sql_list):
        with transaction.atomic(using=self.connection.alias), self.connection.cursor() as cursor:
            cursor.execute("SET LOCAL ROLE NONE")
            cursor.execute("SET LOCAL session_replication_role = replica")
            for sql in sql_list:
                cursor.execute(sql)


class DatabaseWrapper(base.DatabaseWrapper):
    ops_class = DatabaseOperations
