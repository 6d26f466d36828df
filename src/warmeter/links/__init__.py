"""The world outside: messages of devices over MQTT, mail and web hooks, each behind a narrow port."""
