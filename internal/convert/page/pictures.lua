-- Of pictures only those stay that lie in the folder or are written out in the text itself.
function Image(picture)
  local path = picture.src:gsub("%%(%x%x)", function(code) return string.char(tonumber(code, 16)) end)
  if path:match("^data:image/") then return picture end
  if path:match("^[/\\]") or path:match("%.%.") or path:match("^%a[%w+.-]*:") then return picture.caption end
  return picture
end
