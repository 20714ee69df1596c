"""Things that are made of solid wood: what each is asked, what it will do through the year, how it is drawn.

``tops``, ``frames``, ``ground``, ``plates`` and ``joints`` hold them; ``registry`` knows them all. Each works with figures
(:meth:`Thing.work`), words them (:meth:`Thing.present`) and is drawn (:meth:`Thing.scene`) from one and the same course of moisture.
"""
