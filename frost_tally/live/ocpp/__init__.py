"""The edge where charge points speak the open charge point protocol: JSON over WebSocket, 1.6 and 2.0.1.

Sources: Open Charge Alliance, OCPP-J 1.6 specification (2015); OCPP 2.0.1, part 4, JSON over WebSockets (2020). Every message is held
against their published schemas by the library that carries them.
"""
