"""The computation: values in, values out, without clock, file, network, log or chance.

It does not know of pages, databases or devices; those call it.
"""
