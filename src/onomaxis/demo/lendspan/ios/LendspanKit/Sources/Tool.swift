/// A thing that neighbours lend each other.
public struct Tool: Identifiable {
    public let id: Int
    public let name: String
}
