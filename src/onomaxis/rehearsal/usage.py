"""What an Apple app must explain: the marks in a program that ask for something protected, and the key of its reason.

Source: Apple, "Requesting access to protected resources", and the reference of each key; the store looks for the same
names of classes in what is uploaded.
"""

from __future__ import annotations

# The class that code must name to ask, and the keys of which one must be given.
USAGE = {
    b"AVCaptureDevice": ("NSCameraUsageDescription", "NSMicrophoneUsageDescription"),
    b"PHPhotoLibrary": ("NSPhotoLibraryUsageDescription", "NSPhotoLibraryAddUsageDescription"),
    b"CLLocationManager": (
        "NSLocationWhenInUseUsageDescription",
        "NSLocationAlwaysAndWhenInUseUsageDescription",
        "NSLocationAlwaysUsageDescription",
        "NSLocationUsageDescription",
    ),
    b"CNContactStore": ("NSContactsUsageDescription",),
    b"EKEventStore": (
        "NSCalendarsFullAccessUsageDescription",
        "NSCalendarsWriteOnlyAccessUsageDescription",
        "NSCalendarsUsageDescription",
        "NSRemindersFullAccessUsageDescription",
        "NSRemindersUsageDescription",
    ),
    b"CBCentralManager": ("NSBluetoothAlwaysUsageDescription",),
    b"HKHealthStore": ("NSHealthShareUsageDescription", "NSHealthUpdateUsageDescription"),
    b"ATTrackingManager": ("NSUserTrackingUsageDescription",),
    b"SFSpeechRecognizer": ("NSSpeechRecognitionUsageDescription",),
    b"CMMotionActivityManager": ("NSMotionUsageDescription",),
    b"NFCNDEFReaderSession": ("NFCReaderUsageDescription",),
}
