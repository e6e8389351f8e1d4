import XCTest
@testable import Lendspan

final class LoanStoreTests: XCTestCase {
    func testTestsRunInTheApp() {
        XCTAssertEqual(Bundle.main.bundleIdentifier, "org.lendspan.app")
    }

    func testGroupIsShared() {
        XCTAssertEqual(LoanStore.group, "group.org.lendspan.app")
    }
}
