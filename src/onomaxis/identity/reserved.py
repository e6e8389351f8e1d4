"""Reserved words of the languages in which a code package is written, as data with their sources."""

# The Java Language Specification, section 3.9: reserved keywords and the three literals.
JAVA = frozenset(
    """abstract assert boolean break byte case catch char class const continue default do double else enum
    extends final finally float for goto if implements import instanceof int interface long native new package
    private protected public return short static strictfp super switch synchronized this throw throws
    transient try void volatile while true false null _""".split()
)

# Kotlin documentation, "Keywords and operators", hard keywords.
KOTLIN = frozenset(
    """as break class continue do else false for fun if in interface is null object package return super this
    throw true try typealias typeof val var when while""".split()
)

# The Swift Programming Language, "Lexical structure": keywords reserved in declarations, statements, expressions.
SWIFT = frozenset(
    """associatedtype class deinit enum extension fileprivate func import init inout internal let open operator
    private precedencegroup protocol public rethrows static struct subscript typealias var break case catch
    continue default defer do else fallthrough for guard if in repeat return throw switch where while Any as
    await false is nil self Self super throws true try Type Protocol""".split()
)

# The Dart language specification, "Reserved words": no package may be called so.
DART = frozenset(
    """assert break case catch class const continue default do else enum extends false final finally for if in is new
    null rethrow return super switch this throw true try var void while with""".split()
)
