/// A screen of its own for windows that are not Qt's, without a monitor; and what a person does to them.
#pragma once
#include <memory>
#include <string>

/// An X server (Xvfb) that ends with this object. DISPLAY names it.
class XScreen {
  public:
    XScreen();
    ~XScreen();
    XScreen(const XScreen&) = delete;
    XScreen& operator=(const XScreen&) = delete;
    [[nodiscard]] bool ok() const;

    /// The window of the desktop with that title; 0 for none.
    [[nodiscard]] unsigned long titled(const std::string& title) const;
    /// The first window within another; 0 for none.
    [[nodiscard]] unsigned long within(unsigned long window) const;
    [[nodiscard]] std::string titleOf(unsigned long window) const;
    [[nodiscard]] int widthOf(unsigned long window) const; ///< in pixels; 0 for no window
    void press(unsigned long window, int button, int x) const;
    void type(unsigned long window, unsigned long key, bool control) const; ///< X11/keysymdef.h
    void close(unsigned long window) const; ///< by the button in its title bar

  private:
    struct Inner;
    std::unique_ptr<Inner> m_inner;
};
