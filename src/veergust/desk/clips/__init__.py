"""The Clips bench: motion brought in, looked through, prepared, keyed.

``bench`` puts it together; ``library`` lists the clips as strips (made by ``strips``), ``film`` and ``curves`` show
time under the stage, ``cards`` are its pages of fields, ``mapping`` matches foreign joints, ``handles`` turn and pull
joints on the stage.
"""
