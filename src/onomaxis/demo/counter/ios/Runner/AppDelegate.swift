import Flutter
import UIKit

@main
@objc class AppDelegate: FlutterAppDelegate {
}
