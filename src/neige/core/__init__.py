"""Pure computation: arrays and dataclasses in, dataclasses out. See `pipeline` for the whole story on one screen."""
