"""The only place where the parts are put together: a module for each process, imported by who runs it."""
