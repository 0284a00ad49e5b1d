"""Child processes with limits: what parses foreign formats with native code can take nothing along but itself."""

from uvarovite.sandbox.workbooks import convert_workbook

__all__ = ["convert_workbook"]
