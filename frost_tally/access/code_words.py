"""Words for a code that is read off one screen and typed on another: eight bits each."""

WORDS = tuple(  # 256 and a few
    """
    acorn alder amber anvil apple apron arrow aspen attic autumn badge baker barley barn basil basin basket beacon beam bean bear
    beaver bell bench berry birch biscuit blanket blossom boat bonfire book boot bottle branch bread breeze brick bridge brook broom
    brush bucket butter button cabin candle canoe canvas carpet carrot castle cedar cellar chalk cheese cherry chimney cider circle
    clay cliff clock cloud clover coal coat cobble comet compass copper coral cotton cradle crane crayon cream cricket crown crystal
    cup curtain daisy dawn deer desk dew dinner dough dove dragon dream drum duck dune eagle earth easel echo elbow elm ember engine
    evening falcon farm feather fence fern ferry fiddle field finch fire fjord flag flame flint flour flower flute fog forest fork
    fox frame frost garden garlic gate ginger glacier glass glove goat gold goose grain granite grape grass gravel guitar hammer
    harbour harvest hat hawk hazel hearth hedge heron hill hinge honey horn horse island ivory ivy jacket jar jelly jewel juniper
    kayak kernel kettle key kite kitten ladder lake lamp lantern larch laurel lemon lentil letter lichen lily linen lion loaf
    lobster magnet maple marble market meadow melon mill mirror mitten moon moss moth mountain mug mule mushroom nest nettle night
    nut oak oat ocean olive onion orchard otter oven owl paddle paper potato prairie puddle pumpkin quarry quilt rabbit raft rain
    raven reed ribbon river robin rope rose saddle sail salmon salt sand saucer seal shell ship silver sled parsley path peach pear
    pebble pencil pepper piano pillow pine plank plum
    """.split()  # noqa: SIM905
)
