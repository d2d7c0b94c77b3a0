# Everything above the core: ports and sound, then the window.
find_package(Qt6 REQUIRED COMPONENTS Core Gui Widgets PrintSupport Network)
pkg_check_modules(jack REQUIRED IMPORTED_TARGET jack)
pkg_check_modules(rtmidi REQUIRED IMPORTED_TARGET rtmidi)
pkg_check_modules(liblo REQUIRED IMPORTED_TARGET liblo)
pkg_check_modules(fluidsynth REQUIRED IMPORTED_TARGET fluidsynth)
pkg_check_modules(sndfile REQUIRED IMPORTED_TARGET sndfile)
pkg_check_modules(pipewire REQUIRED IMPORTED_TARGET libpipewire-0.3)

file(GLOB_RECURSE io_sources CONFIGURE_DEPENDS src/io/*.cpp)
if(MELLOW_SHARED_CORE)
  add_library(mellow-io SHARED ${io_sources})
  target_link_options(mellow-io PRIVATE -Wl,-Bsymbolic-functions)
else()
  add_library(mellow-io STATIC ${io_sources})
endif()
target_link_libraries(mellow-io PRIVATE mellow-warnings PUBLIC mellow-core PkgConfig::jack PkgConfig::rtmidi PkgConfig::liblo PkgConfig::fluidsynth PRIVATE PkgConfig::sndfile PkgConfig::pipewire)
# PipeWire builds its messages by macros that C++ has not.
set_source_files_properties(src/io/sound/pipewire_output.cpp src/io/sound/pipewire_sinks.cpp PROPERTIES COMPILE_OPTIONS "-Wno-pedantic;-Wno-missing-field-initializers;-Wno-shadow")

# Tells JACK's store of metadata, by itself: nothing else may wait for that (src/io/ports/jack_teller.h).
add_executable(mellow-lever-names src/tools/names_main.cpp)
target_link_libraries(mellow-lever-names PRIVATE mellow-warnings PkgConfig::jack)
add_dependencies(mellow-io mellow-lever-names)

file(GLOB_RECURSE app_sources CONFIGURE_DEPENDS src/app/*.cpp src/app/*.h)
list(FILTER app_sources EXCLUDE REGEX "src/app/frame/main\\.cpp$")
qt6_add_resources(app_resources data/resources.qrc)
add_library(mellow-app STATIC ${app_sources} ${app_resources})
set_target_properties(mellow-app PROPERTIES AUTOMOC ON)
target_link_libraries(mellow-app PRIVATE mellow-warnings PUBLIC mellow-io Qt6::Widgets Qt6::PrintSupport Qt6::Network)
if(MELLOW_PCH)
  target_precompile_headers(mellow-app PRIVATE <QtWidgets/QtWidgets> <memory> <string> <vector> <functional>)
endif()

add_executable(mellow-lever src/app/frame/main.cpp)
target_link_libraries(mellow-lever PRIVATE mellow-warnings mellow-app mellow-version)

# The sheet as PDF for the command line: fonts, and no window.
qt6_add_resources(paper_resources data/paper.qrc)
add_executable(mellow-lever-paper src/tools/paper_main.cpp src/app/paper/paper_painter.cpp ${paper_resources})
target_link_libraries(mellow-lever-paper PRIVATE mellow-warnings mellow-core Qt6::Gui)

# For whoever works on it; a package does without.
add_executable(mellow-lever-shots src/tools/shots.cpp src/tools/scenes.cpp src/tools/sheet_scenes.cpp src/tools/balance_scenes.cpp)
target_link_libraries(mellow-lever-shots PRIVATE mellow-warnings mellow-app)
if(NOT BUILD_TESTING)
  set_target_properties(mellow-lever-shots PROPERTIES EXCLUDE_FROM_ALL ON)
endif()
