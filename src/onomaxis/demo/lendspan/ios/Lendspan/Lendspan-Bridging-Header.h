#import "LegacyScanner.h"
