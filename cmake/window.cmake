# Everything above the core: ports and sound, then the window.
find_package(Qt6 REQUIRED COMPONENTS Core Gui Widgets)
pkg_check_modules(jack REQUIRED IMPORTED_TARGET jack)
pkg_check_modules(rtmidi REQUIRED IMPORTED_TARGET rtmidi)
pkg_check_modules(liblo REQUIRED IMPORTED_TARGET liblo)
pkg_check_modules(fluidsynth REQUIRED IMPORTED_TARGET fluidsynth)
pkg_check_modules(sndfile REQUIRED IMPORTED_TARGET sndfile)

file(GLOB_RECURSE io_sources CONFIGURE_DEPENDS src/io/*.cpp)
add_library(mellow-io STATIC ${io_sources})
target_link_libraries(mellow-io PRIVATE mellow-warnings PUBLIC mellow-core PkgConfig::jack PkgConfig::rtmidi PkgConfig::liblo PkgConfig::fluidsynth PRIVATE PkgConfig::sndfile)

file(GLOB_RECURSE app_sources CONFIGURE_DEPENDS src/app/*.cpp src/app/*.h)
list(FILTER app_sources EXCLUDE REGEX "src/app/(main|shots)\\.cpp$")
qt6_add_resources(app_resources data/resources.qrc)
add_library(mellow-app STATIC ${app_sources} ${app_resources})
set_target_properties(mellow-app PROPERTIES AUTOMOC ON)
target_compile_definitions(mellow-app PUBLIC MELLOW_VERSION="${PROJECT_VERSION}")
target_link_libraries(mellow-app PRIVATE mellow-warnings PUBLIC mellow-io Qt6::Widgets)
if(MELLOW_PCH)
  target_precompile_headers(mellow-app PRIVATE <QtWidgets/QtWidgets> <memory> <string> <vector> <functional>)
endif()

add_executable(mellow-lever src/app/main.cpp)
target_link_libraries(mellow-lever PRIVATE mellow-warnings mellow-app)

add_executable(mellow-lever-shots src/app/shots.cpp)
target_link_libraries(mellow-lever-shots PRIVATE mellow-warnings mellow-app)
