// A screen that is touched, for tests of windows; there is one.
#pragma once

#include <QPointingDevice>
#include <QtTest/QtTest>

namespace mellow::test {

inline QPointingDevice* touchScreen() {
    static QPointingDevice* const device = QTest::createTouchDevice();
    return device;
}

}  // namespace mellow::test
